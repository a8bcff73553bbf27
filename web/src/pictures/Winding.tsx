/** The winding window with every strand in it, to scale. */
import type { WindingCard } from '../api'
import { apart } from './apart'

/** Primary, secondary, primary from the core outwards; every strand a circle of its true diameter, laid layer by layer. */
export function Winding({ card }: { card: WindingCard }) {
  if (card.order.length === 0 || card.insulation === null)
    return <p className="quiet">It cannot be drawn: {card.unknown.slice(0, 3).join(', ').toLowerCase()} not known.</p>
  return <Drawn card={card} insulation={card.insulation} />
}

function Drawn({ card, insulation }: { card: WindingCard; insulation: number }) {
  const breadth = card.core.breadth * 1e3
  const height = (card.core.window / card.core.breadth) * 1e3
  const lay = (count: number, diameter: number, from: number) => {
    const pitch = diameter * 1e3 * 1.09
    const across = Math.max(1, Math.floor(breadth / pitch))
    return {
      circles: Array.from({ length: Math.min(count, 900) }, (_, i) => ({
        x: (i % across) * pitch + pitch / 2,
        y: from + Math.floor(i / across) * pitch + pitch / 2,
        r: (diameter * 1e3) / 2,
      })),
      end: from + Math.ceil(count / across) * pitch,
    }
  }
  const tape = insulation * 1e3
  const [first, secondary, last] = card.order
  const count = (w: typeof first, halves: number) => (w ? halves * w.turns * w.strands : 0)
  const inner = lay(count(first, card.halves), first!.diameter, 0.2)
  const middle = lay(count(secondary, 1), secondary!.diameter, inner.end + tape)
  const outer = lay(count(last, card.halves), first!.diameter, middle.end + tape)
  const full = Math.max(height, outer.end)
  const k = 300 / breadth
  const names: [string, number][] = [
    ['primary', inner.end / 2],
    [`sec. ${secondary!.turns}`, (inner.end + middle.end) / 2],
    ['primary', (middle.end + outer.end) / 2],
  ]
  const middles = names.map(([, y]) => 8 + y * k)
  const beside = apart(middles, 14)
  return (
    <figure style={{ margin: 0 }}>
      <svg
        className="plot"
        viewBox={`0 -8 392 ${full * k + 42}`}
        width="100%"
        role="img"
        aria-label="Winding window to scale">
        <rect x="0" y="0" width="330" height={full * k + 16} fill="var(--track)" />
        <rect x="15" y="8" width="300" height={height * k} fill="var(--sheet)" stroke="var(--slate)" />
        <g transform={`translate(15 8) scale(${k})`}>
          {[inner, outer].map((w, i) =>
            w.circles.map((c) => <circle key={`${i}${c.x}${c.y}`} cx={c.x} cy={c.y} r={c.r} fill="var(--copper)" />),
          )}
          {middle.circles.map((c) => (
            <circle key={`s${c.x}${c.y}`} cx={c.x} cy={c.y} r={c.r} fill="var(--copper)" opacity={0.55} />
          ))}
          {[inner.end, middle.end].map((y) => (
            <rect key={y} x="0" y={y} width={breadth} height={tape} fill="var(--tight)" />
          ))}
        </g>
        {names.map(([name], i) => (
          <g key={i}>
            <path d={`M317 ${middles[i]!}L331 ${beside[i]!}`} stroke="var(--slate)" strokeWidth="0.8" />
            <text className="word" x="334" y={beside[i]! + 4}>
              {name}
            </text>
          </g>
        ))}
        <text x="15" y={full * k + 30}>
          {breadth.toFixed(1)} mm × {height.toFixed(1)} mm; core below
        </text>
      </svg>
    </figure>
  )
}
