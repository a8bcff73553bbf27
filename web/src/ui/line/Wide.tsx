/** The line from left to right, with what hangs on each stage below it. */
import { memo } from 'react'
import { Rhombus } from '../Mark'
import { conductor, short, type Drawn, type JointValues } from './drawn'
import { along, rowsOf } from './hung'
import { Attachment, HeldMark, Spot, type SpotProps } from './Spot'

const MARGIN = 66
const AXIS = 40
const FIRST_ROW = 102
const ROW = 17
/** Below this distance between stages, labels take two rows. */
const NARROW = 130

export function Wide({ path, hung, width, spot, tell, joint }: Drawn) {
  const step = (width - 2 * MARGIN) / Math.max(path.length - 1, 1)
  const x = (i: number) => MARGIN + i * step
  const narrow = step < NARROW
  const hanging = along(path.map(hung), x, step, width)
  const height = 94 + Math.max(1, ...hanging.map(rowsOf)) * ROW
  return (
    <svg height={height} viewBox={`0 0 ${width} ${height}`}>
      {path.slice(1).map((p, i) => (
        <Joint key={p.name} from={x(i)} to={x(i + 1)} narrow={narrow} {...joint(p)} />
      ))}
      {path.map((p, i) => (
        <g key={p.name}>
          <Station
            {...spot(p)}
            title={p.title}
            tell={short(tell(p), Math.floor(Math.min(step, 2 * MARGIN + 8) / 6.1))}
            x={x(i)}
            step={step}
          />
          {hanging[i]!.map(({ place, x, row, width }) => (
            <Attachment
              key={place.name}
              {...spot(place)}
              title={place.title}
              host={p.title}
              x={x}
              y={FIRST_ROW + row * ROW}
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
  x: number
  step: number
}

const Station = memo(function Station({ title, tell, x, step, ...spot }: StationProps) {
  return (
    <Spot {...spot} label={`${title} ${tell}`} area={[x - step / 2 + 6, 22, step - 12, 62]}>
      <Rhombus x={x} y={AXIS} r={spot.open ? 19 : 14} verdict={spot.verdict} />
      {spot.held && <HeldMark x={x} y={AXIS} />}
      <text className="stage" x={x} y={72} textAnchor="middle">
        {title}
      </text>{' '}
      <text className="tell" x={x} y={87} textAnchor="middle">
        {tell}
      </text>
    </Spot>
  )
})

interface JointProps extends JointValues {
  from: number
  to: number
  narrow: boolean
}

const Joint = memo(function Joint({ from, to, narrow, label, amperes }: JointProps) {
  const lines = narrow ? label.split(' · ') : [label]
  return (
    <g>
      <line
        className="conductor"
        x1={from}
        x2={to}
        y1={AXIS}
        y2={AXIS}
        strokeWidth={conductor(amperes)}
        data-current={amperes ?? ''}
      />
      {lines.map((text, k) => (
        <text key={k} className="joint" x={(from + to) / 2} y={(narrow ? 12 : 18) + 13 * k} textAnchor="middle">
          {text}
        </text>
      ))}
    </g>
  )
})
