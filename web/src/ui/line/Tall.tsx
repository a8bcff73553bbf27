/** The line from top to bottom, for narrow screens. */
import { memo } from 'react'
import { Rhombus } from '../Mark'
import { conductor, type Drawn } from './drawn'
import { Attachment, Spot, type SpotProps } from './Spot'

const STEP = 46
const AXIS = 26

export function Tall({ path, hung, width, spot, tell, joint }: Drawn) {
  const height = path.length * STEP + 8
  const y = (i: number) => 24 + i * STEP
  return (
    <svg height={height} viewBox={`0 0 ${width} ${height}`}>
      {path.slice(1).map((p, i) => {
        const { label, amperes } = joint(p)
        return (
          <g key={p.name}>
            <line
              className="conductor"
              x1={AXIS}
              x2={AXIS}
              y1={y(i)}
              y2={y(i + 1)}
              strokeWidth={conductor(amperes)}
              data-current={amperes ?? ''}
            />
            <text className="joint" x={width - 10} y={y(i + 0.5) + 4} textAnchor="end">
              {label}
            </text>
          </g>
        )
      })}
      {path.map((p, i) => (
        <g key={p.name}>
          <Station {...spot(p)} title={p.title} tell={tell(p)} y={y(i)} />
          {hung(p).map((a, k) => (
            <Attachment
              key={a.name}
              {...spot(a)}
              title={a.title}
              host={p.title}
              x={156 + k * 78}
              y={y(i) - 6}
              width={74}
            />
          ))}
        </g>
      ))}
    </svg>
  )
}

interface StationProps extends SpotProps {
  title: string
  tell: string
  y: number
}

const Station = memo(function Station({ title, tell, y, ...spot }: StationProps) {
  return (
    <Spot {...spot} label={`${title} ${tell}`} area={[0, y - 20, 146, 40]}>
      <Rhombus x={AXIS} y={y} r={spot.open ? 15 : 11} verdict={spot.verdict} />
      <text x={52} y={y - 2}>
        {title}
      </text>{' '}
      <text className="tell" x={52} y={y + 13}>
        {tell}
      </text>
    </Spot>
  )
})
