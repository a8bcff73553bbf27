/** The line from top to bottom, for narrow screens. */
import { Rhombus } from '../Mark'
import { conductor, type Drawn } from './drawn'
import { Attachment, Spot } from './Spot'

const STEP = 46
const AXIS = 26

export function Tall(drawn: Drawn) {
  const { path, hung, width, tell, joint } = drawn
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
          <Spot place={p} drawn={drawn} label={`${p.title} ${tell(p)}`} area={[0, y(i) - 20, 146, 40]}>
            {(verdict, open) => (
              <>
                <Rhombus x={AXIS} y={y(i)} r={open ? 15 : 11} verdict={verdict} />
                <text x={52} y={y(i) - 2}>
                  {p.title}
                </text>{' '}
                <text className="tell" x={52} y={y(i) + 13}>
                  {tell(p)}
                </text>
              </>
            )}
          </Spot>
          {hung(p).map((a, k) => (
            <Attachment key={a.name} place={a} host={p} drawn={drawn} x={156 + k * 78} y={y(i) - 6} width={74} />
          ))}
        </g>
      ))}
    </svg>
  )
}
