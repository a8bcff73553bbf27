/** The line from left to right, with what hangs on each stage below it. */
import { memo } from 'react'
import type { PlaceMeta } from '../../api'
import { Rhombus } from '../Mark'
import { conductor, type Drawn, type JointValues } from './drawn'
import { Attachment, Spot, type SpotProps } from './Spot'

const MARGIN = 66
const AXIS = 40
const FIRST_ROW = 102
const ROW = 17
/** Below this distance between stages, labels take two rows and attachments one column. */
const NARROW = 130

export function Wide({ path, hung, width, spot, tell, joint }: Drawn) {
  const step = (width - 2 * MARGIN) / Math.max(path.length - 1, 1)
  const x = (i: number) => MARGIN + i * step
  const narrow = step < NARROW
  const across = narrow ? 1 : 2
  const rows = Math.max(1, ...path.map((p) => Math.ceil(hung(p).length / across)))
  const height = 94 + rows * ROW
  const column = (host: PlaceMeta, k: number) =>
    (k % across) * Math.min(78, step / 2 + 8) - (hung(host).length > 1 && !narrow ? step / 2 - 8 : 34)
  return (
    <svg height={height} viewBox={`0 0 ${width} ${height}`}>
      {path.slice(1).map((p, i) => (
        <Joint key={p.name} from={x(i)} to={x(i + 1)} narrow={narrow} {...joint(p)} />
      ))}
      {path.map((p, i) => (
        <g key={p.name}>
          <Station {...spot(p)} title={p.title} tell={short(tell(p), Math.floor(step / 6.1))} x={x(i)} step={step} />
          {hung(p).map((a, k) => (
            <Attachment
              key={a.name}
              {...spot(a)}
              title={a.title}
              host={p.title}
              x={x(i) + column(p, k)}
              y={FIRST_ROW + Math.floor(k / across) * ROW}
              width={step / 2 - 8}
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
      <text className="stage" x={x} y={72} textAnchor="middle">
        {title}
      </text>{' '}
      <text className="tell" x={x} y={87} textAnchor="middle">
        {tell}
      </text>
    </Spot>
  )
})

const short = (text: string, room: number) => (text.length > room ? `${text.slice(0, room - 1)}…` : text)

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
