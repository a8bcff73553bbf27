/** The battery's voltage at every corner against the cut-off's thresholds. */
import { shown } from '../number'
import { at } from '../state/figures'
import { useWorkspace } from '../state/workspace'
import { Head } from './Head'

export function BatteryWindow() {
  const { sheet, corner } = useWorkspace()
  const v = (key: string, at_ = corner) => at(sheet!.figures[key], at_) ?? NaN
  const bars = sheet!.corners.map((c, i) => ({
    title: c.title,
    open: v('battery.open_circuit_voltage', i),
    pack: v('battery.pack_voltage', i),
    at: v('battery.terminal_voltage', i),
  }))
  const lines = [
    { name: 'cut-off', value: v('cutoff.falling_threshold') },
    { name: 'restart', value: v('cutoff.rising_threshold') },
  ]
  const values = [...bars.flatMap((b) => [b.open, b.at]), ...lines.map((l) => l.value)].filter((x) => x === x)
  const [lo, hi] = [Math.min(...values) - 0.6, Math.max(...values) + 0.4]
  const bottom = 16 + bars.length * 23
  const X = (x: number) => 104 + ((x - lo) / (hi - lo)) * 262
  return (
    <>
      <Head>Battery window</Head>
      <svg
        className="plot"
        viewBox={`0 0 380 ${bottom + 26}`}
        width="100%"
        role="img"
        aria-label="Voltages at every corner with the thresholds">
        {lines.map((l, i) => (
          <g key={l.name}>
            <line className="limit" x1={X(l.value)} x2={X(l.value)} y1="16" y2={bottom} />
            <text className="word" x={X(l.value)} y={i ? bottom + 20 : 11} textAnchor="middle">
              {l.name} {shown(l.value, 'V').number} V
            </text>
          </g>
        ))}
        {bars.map((b, i) => (
          <g key={b.title}>
            <text className="word" x="98" y={34 + i * 23} textAnchor="end">
              {b.title}
            </text>
            <line
              x1={X(b.at)}
              x2={X(b.open)}
              y1={30 + i * 23}
              y2={30 + i * 23}
              stroke="var(--copper)"
              strokeWidth={i === corner ? 8 : 4}
              opacity={i === corner ? 1 : 0.6}
            />
            <circle cx={X(b.pack)} cy={30 + i * 23} r="3" fill="var(--sheet)" stroke="var(--ink)" />
          </g>
        ))}
      </svg>
      <p className="quiet" style={{ fontSize: 13 }}>
        Bar: from open circuit down to the converter's terminals. Ring: at the pack, where the cut-off senses.
      </p>
    </>
  )
}
