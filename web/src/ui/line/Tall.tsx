/** The line from top to bottom, for narrow screens. */
import { memo } from 'react'
import { Rhombus } from '../Mark'
import { conductor, short, type Drawn } from './drawn'
import { flowed, rowsOf } from './hung'
import { Attachment, HeldMark, Spot, type SpotProps } from './Spot'

const STEP = 46
const AXIS = 26
const ROW = 17
const HANGS_FROM = 156
/** Letters that have room before what hangs there. */
const TELL = 17

export function Tall({ path, hung, width, spot, tell, joint }: Drawn) {
  const hanging = path.map((p) => flowed(hung(p), HANGS_FROM, width - HANGS_FROM - 6))
  // Two rows stand beside a stage; what has more makes its step longer.
  const steps = hanging.map((h) => STEP + Math.max(0, rowsOf(h) - 1) * ROW)
  const tops = steps.map((_, i) => steps.slice(0, i).reduce((sum, step) => sum + step, 0))
  const height = (tops.at(-1) ?? 0) + (steps.at(-1) ?? 0) + 8
  const y = (i: number) => 24 + tops[i]!
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
            <text className="joint" x={width - 10} y={y(i + 1) - STEP / 2 + 4} textAnchor="end">
              {label}
            </text>
          </g>
        )
      })}
      {path.map((p, i) => (
        <g key={p.name}>
          <Station {...spot(p)} title={p.title} tell={short(tell(p), TELL)} y={y(i)} />
          {hanging[i]!.map(({ place, x, row, width }) => (
            <Attachment
              key={place.name}
              {...spot(place)}
              title={place.title}
              host={p.title}
              x={x}
              y={y(i) - 6 + row * ROW}
              width={width - 4}
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
      {spot.held && <HeldMark x={AXIS} y={y} />}
      <text x={52} y={y - 2}>
        {title}
      </text>{' '}
      <text className="tell" x={52} y={y + 13}>
        {tell}
      </text>
    </Spot>
  )
})
