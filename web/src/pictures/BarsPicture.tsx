/** Ranges under one another on one scale, with named levels across them. */
import { scaleLinear } from 'd3-scale'
import type { Bars } from '../api/schema'
import { text } from '../number'
import { placeTitle } from '../state/figures'
import { useSheet } from '../state/sheet'
import { useWorkspace } from '../state/workspace'

const [WIDTH, LEFT, RIGHT, ROW, TOP] = [380, 124, 52, 22, 18]
const NARROWEST = 3

const short = (name: string) => (name.length > 19 ? `${name.slice(0, 18)}…` : name)

export function BarsPicture({ title, unit, bars, limits, from_zero: fromZero }: Bars) {
  const { meta } = useSheet()
  const { design } = useWorkspace()
  const known = bars.filter((b) => b.start !== null && b.end !== null)
  const values = [
    ...known.flatMap((b) => [b.start!, b.end!].filter((v) => fromZero || v > 0)),
    ...limits.map((l) => l.value ?? NaN),
  ]
  const finite = values.filter(Number.isFinite)
  if (finite.length === 0) return <p className="quiet">Nothing to draw: a figure it needs is unknown.</p>
  const [low, high] = [Math.min(...finite), Math.max(...finite)]
  const room = (high - low) * 0.08 || Math.abs(high) * 0.05 || 1
  const x = scaleLinear([fromZero ? 0 : low - room, high + room], [LEFT, WIDTH - RIGHT]).clamp(true)
  const bottom = TOP + known.length * ROW
  // Names of neighbouring levels take turns above and below, so that they do not lie on each other.
  const levels = limits.filter((l) => l.value !== null).sort((a, b) => a.value! - b.value!)
  const named = (name: string) => short(placeTitle(meta, design, name))
  return (
    <svg className="plot bars" viewBox={`0 0 ${WIDTH} ${bottom + 20}`} width="100%" role="img" aria-label={title}>
      {levels.map((l, i) => (
        <g key={l.name}>
          <line className="limit" x1={x(l.value!)} x2={x(l.value!)} y1={TOP - 4} y2={bottom} />
          <text
            className="word"
            x={x(l.value!)}
            y={i % 2 ? bottom + 14 : 11}
            textAnchor={x(l.value!) > 250 ? 'end' : 'middle'}>
            {l.name} {text(l.value, unit)}
          </text>
        </g>
      ))}
      {known.map((b, i) => {
        const [from, to] = [x(b.start!), x(b.end!)]
        const y = TOP + i * ROW
        const height = b.strong ? 11 : 7
        const end = Math.max(from, to)
        return (
          <g key={`${b.name}${i}`}>
            <text
              className="word"
              x={LEFT - 6}
              y={y + 13}
              textAnchor="end"
              style={b.strong ? { fill: 'var(--ink)' } : undefined}>
              {named(b.name)}
            </text>
            <rect
              x={Math.min(from, to)}
              y={y + 9 - height / 2}
              width={Math.max(NARROWEST, Math.abs(to - from))}
              height={height}
              fill={`var(--${b.tone})`}
              opacity={b.weak ? 0.45 : b.strong ? 1 : 0.8}
            />
            {b.ring !== null && <circle cx={x(b.ring)} cy={y + 9} r="3.2" fill="var(--sheet)" stroke="var(--ink)" />}
            {(levels.length < 2 || b.strong) && (
              <text x={end + 4} y={y + 13}>
                {text(b.end, unit)}
              </text>
            )}
          </g>
        )
      })}
    </svg>
  )
}
