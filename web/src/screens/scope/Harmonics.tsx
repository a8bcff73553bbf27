/** The harmonics of the output as bars, logarithmic, relative to the fundamental. */
import type { ScopeTold } from '../../api'

export function Harmonics({ p, limit }: { p: ScopeTold; limit: number }) {
  const one = p.harmonics[0]?.output ?? 1
  const low = p.harmonics.filter((h) => h.order <= 40 && h.order % 2 === 1).slice(0, 13)
  const high = p.harmonics.filter((h) => Math.abs(h.order - p.carrier_order) <= 8)
  const floor = -5
  const h = (v: number) => Math.max(0, ((Math.log10(Math.max(v / one, 1e-9)) - floor) / -floor) * 92)
  const bars = [
    ...low.map((x, i) => ({
      x: 46 + i * 11.4,
      v: x.output,
      tone: x.order === 1 ? 'var(--copper)' : 'var(--slate)',
      name: i % 2 === 0 ? String(x.order) : '',
    })),
    ...high.map((x, i) => ({ x: 208 + i * 6.4, v: x.output, tone: 'var(--hold)', name: '' })),
  ]
  return (
    <svg
      className="plot"
      viewBox="-8 0 328 132"
      width="100%"
      role="img"
      aria-label="Harmonics as bars, logarithmic, relative to the fundamental">
      {[0, -1, -2, -3, -4].map((d) => (
        <g key={d}>
          <line
            className="axis"
            x1="42"
            x2="318"
            y1={104 - ((d - floor) / -floor) * 92}
            y2={104 - ((d - floor) / -floor) * 92}
          />
          <text x="39" y={108 - ((d - floor) / -floor) * 92} textAnchor="end">
            {d === 0 ? '100 %' : `${10 ** (d + 2)} %`}
          </text>
        </g>
      ))}
      {bars.map((b) => (
        <g key={b.x}>
          <rect x={b.x} y={104 - h(b.v)} width={b.x > 200 ? 5 : 9} height={h(b.v)} fill={b.tone} />
          <text x={b.x + 4} y="117" textAnchor="middle">
            {b.name}
          </text>
        </g>
      ))}
      <line className="limit" x1="42" x2="318" y1={104 - h(limit * one)} y2={104 - h(limit * one)} />
      <text className="word" x="258" y="129" textAnchor="middle">
        near the {Math.round(p.carrier_order)}th
      </text>
      <text className="word" x="318" y={100 - h(limit * one)} textAnchor="end">
        THD limit
      </text>
    </svg>
  )
}
