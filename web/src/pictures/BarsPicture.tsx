/** Ranges under one another on one scale, with named levels across them. */
import { scaleLinear } from 'd3-scale'
import type { Bars } from '../api/schema'
import { text } from '../number'
import { placeTitle } from '../state/figures'
import { useSelected } from '../state/sheet'
import { useWorked } from '../state/workspace'
import { clear } from './apart'

const [WIDTH, LEFT, RIGHT, ROW, TOP] = [380, 124, 52, 22, 18]
const NARROWEST = 3
/** How wide a letter of a value is. */
const LETTER = 6.4

/** A name up to here stands before its bar; a longer one on a line of its own above it. */
const BESIDE = 17
const LONGEST = 52
const short = (name: string) => (name.length > LONGEST ? `${name.slice(0, LONGEST - 1)}…` : name)

export function BarsPicture({ title, unit, bars, limits, from_zero: fromZero }: Bars) {
  const meta = useSelected((s) => s.meta)
  const loads = useWorked((w) => w.design.loads)
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
  const names = known.map((b) => short(placeTitle(meta, loads, b.name)))
  const rows = names.map((name) => (name.length > BESIDE ? 2 * ROW - 7 : ROW))
  const tops = rows.map((_, i) => TOP + rows.slice(0, i).reduce((sum, row) => sum + row, 0))
  const bottom = TOP + rows.reduce((sum, row) => sum + row, 0)
  // Names of neighbouring levels take turns above and below, so that they do not lie on each other.
  const levels = limits.filter((l) => l.value !== null).sort((a, b) => a.value! - b.value!)
  const lines = levels.map((l) => x(l.value!))
  return (
    <svg className="plot bars" viewBox={`0 -4 ${WIDTH} ${bottom + 24}`} width="100%" role="img" aria-label={title}>
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
        const above = names[i]!.length > BESIDE
        const y = tops[i]! + rows[i]! - ROW
        const height = b.strong ? 11 : 7
        const end = Math.max(from, to)
        const told = text(b.end, unit)
        return (
          <g key={`${b.name}${i}`}>
            <text
              className="word"
              x={above ? 0 : LEFT - 6}
              y={above ? tops[i]! + 12 : y + 13}
              textAnchor={above ? 'start' : 'end'}
              style={b.strong ? { fill: 'var(--ink)' } : undefined}>
              {names[i]}
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
              <text x={clear(end + 4, told.length * LETTER, lines)} y={y + 13}>
                {told}
              </text>
            )}
          </g>
        )
      })}
    </svg>
  )
}
