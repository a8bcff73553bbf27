/** A picture that means something for the stage, drawn to scale from the sheet's own figures. */
import { useQuery } from '@tanstack/react-query'
import { call, type Curve, type PlaceMeta, type WindingCard } from '../api'
import { at } from '../state/figures'
import { shown, text } from '../number'
import { useWorkspace } from '../state/workspace'
import { Plot } from '../ui/Plot'

export function StagePicture({ place }: { place: PlaceMeta }) {
  const stage = place.stage
  if (stage === 'transformer') return <WindingWindow />
  if (stage === 'battery' || stage === 'cutoff') return <BatteryWindow />
  if (stage === 'precharge') return <PrechargeCurve />
  if (stage === 'dc_link') return <LinkWindow />
  if (
    stage === 'push_pull' ||
    stage === 'full_bridge' ||
    stage === 'source_input' ||
    stage === 'oscillator' ||
    stage === 'rectifier'
  )
    return <DutyCurve />
  return <LossBars />
}

const Head = ({ children }: { children: React.ReactNode }) => (
  <h2 className="cap" style={{ marginTop: 16 }}>
    {children}
  </h2>
)

export function WindingWindow() {
  const { design } = useWorkspace()
  const pack = useQuery({
    queryKey: ['build', JSON.stringify(design)],
    queryFn: () => call<{ winding: WindingCard }>('build', { body: { design } }),
    placeholderData: (old) => old,
  })
  return pack.data ? (
    <>
      <Head>Winding window, to scale</Head>
      <Winding card={pack.data.winding} />
    </>
  ) : null
}

/** Primary, secondary, primary from the core outwards; every strand a circle of its true diameter, laid layer by layer. */
export function Winding({ card }: { card: WindingCard }) {
  const breadth = card.core.breadth * 1e3
  const height = (card.core.window / card.core.breadth) * 1e3
  const [p, s] = [card.order[0]!, card.order[1]!]
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
  const tape = card.insulation * 1e3
  const inner = lay(Math.ceil((card.halves * p.turns * p.strands) / 2), p.diameter, 0.2)
  const middle = lay(s.turns * s.strands, s.diameter, inner.end + tape)
  const outer = lay(Math.floor((card.halves * p.turns * p.strands) / 2), p.diameter, middle.end + tape)
  const full = Math.max(height, outer.end)
  const k = 300 / breadth
  return (
    <figure style={{ margin: 0 }}>
      <svg
        className="plot"
        viewBox={`0 0 392 ${full * k + 34}`}
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
        {[
          ['primary', inner.end / 2],
          [`sec. ${s.turns}`, (inner.end + middle.end) / 2],
          ['primary', (middle.end + outer.end) / 2],
        ].map(([name, y], i) => (
          <text key={i} className="word" x="334" y={8 + Number(y) * k + 4}>
            {name}
          </text>
        ))}
        <text x="15" y={full * k + 30}>
          {breadth.toFixed(1)} mm × {height.toFixed(1)} mm; core below
        </text>
      </svg>
    </figure>
  )
}

function BatteryWindow() {
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
  const X = (x: number) => 104 + ((x - lo) / (hi - lo)) * 262
  return (
    <>
      <Head>Battery window</Head>
      <svg
        className="plot"
        viewBox="0 0 380 262"
        width="100%"
        role="img"
        aria-label="Voltages at every corner with the thresholds">
        {lines.map((l, i) => (
          <g key={l.name}>
            <line className="limit" x1={X(l.value)} x2={X(l.value)} y1="16" y2="236" />
            <text className="word" x={X(l.value)} y={i ? 258 : 11} textAnchor="middle">
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

function PrechargeCurve() {
  const { sheet } = useWorkspace()
  const v = (key: string) => sheet!.figures[key]?.values[0] ?? NaN
  const [volts, tau, close, x] = [
    v('precharge.resistor_voltage'),
    v('precharge.time_constant'),
    v('precharge.precharge_time'),
    v('precharge.closing_fraction'),
  ]
  const t = Array.from({ length: 61 }, (_, i) => (i / 60) * 6 * tau)
  return (
    <>
      <Head>Precharge of the bank</Head>
      <Plot
        title="Bank voltage while it is precharged"
        xName="time"
        xUnit="s"
        yUnit="V"
        yFrom={0}
        series={[{ name: 'bank', x: t, y: t.map((s) => volts * (1 - Math.exp(-s / tau))), tone: 'var(--copper)' }]}
        limits={[{ value: volts, name: 'source' }]}
        marks={[
          { x: close, y: volts * x, name: `close at ${text(close, 's')}` },
          { x: tau / 2, y: volts * 0.393, name: 'test at τ/2' },
        ]}
      />
    </>
  )
}

function LinkWindow() {
  const { sheet } = useWorkspace()
  const f = (key: string) => sheet!.figures[key]?.values.filter((x): x is number => x !== null) ?? []
  const rows = [
    { name: 'needed by the output', from: 0, to: Math.max(...f('link.needed_valley')), tone: 'var(--slate)' },
    {
      name: 'link, valley to crest',
      from: Math.min(...f('link.link_valley')),
      to: Math.max(...f('link.link_crest')),
      tone: 'var(--copper)',
    },
    {
      name: 'capacitor rating / 1.15',
      from: 0,
      to: (f('link.capacitor_rated_voltage')[0] ?? 0) / 1.15,
      tone: 'var(--hold)',
    },
    {
      name: 'switch rating / 1.25',
      from: 0,
      to: (f('bridge.switch_rated_voltage')[0] ?? 0) / 1.25,
      tone: 'var(--hold)',
    },
  ]
  const [lo, hi] = [
    Math.min(...rows.map((r) => (r.from > 0 ? r.from : r.to))) - 20,
    Math.max(...rows.map((r) => r.to)) + 10,
  ]
  const X = (x: number) => 150 + ((Math.max(x, lo) - lo) / (hi - lo)) * 190
  return (
    <>
      <Head>Link window</Head>
      <svg
        className="plot"
        viewBox="0 0 380 132"
        width="100%"
        role="img"
        aria-label="The link between what the output needs and what the parts stand">
        {rows.map((r, i) => (
          <g key={r.name}>
            <text className="word" x="144" y={26 + i * 29} textAnchor="end">
              {r.name}
            </text>
            <rect
              x={X(r.from)}
              y={15 + i * 29}
              width={Math.max(3, X(r.to) - X(r.from))}
              height="14"
              fill={r.tone}
              opacity={r.from > 0 ? 1 : 0.45}
            />
            <text x={Math.min(X(r.to) + 4, 338)} y={26 + i * 29}>
              {Math.round(r.to)} V
            </text>
          </g>
        ))}
      </svg>
    </>
  )
}

function DutyCurve() {
  const { design, sheet, corner } = useWorkspace()
  const curves = useQuery({
    queryKey: ['curves', JSON.stringify(design)],
    queryFn: () => call<{ duty: Curve; link: Curve }>('curves', { body: { design } }),
    placeholderData: (old) => old,
  })
  if (!curves.data) return null
  const { duty, link } = curves.data
  const limit = sheet!.figures['oscillator.duty_limit']?.values[0] ?? 1
  const v = at(sheet!.figures['battery.terminal_voltage'], corner)
  const d = at(sheet!.figures['front.total_duty'], corner)
  return (
    <>
      <Head>Duty and link over the battery window</Head>
      <Plot
        title="Total duty at full load, build held"
        xName="source voltage"
        xUnit="V"
        yUnit=""
        series={[{ name: 'total duty', x: duty.points, y: duty.series['front.total_duty']!, tone: 'var(--copper)' }]}
        limits={[{ value: limit, name: 'greatest duty' }]}
        marks={v !== null && d !== null ? [{ x: v, y: d, name: 'this corner' }] : []}
        height={180}
      />
      <Plot
        title="Link at full load, build held"
        xName="source voltage"
        xUnit="V"
        yUnit="V"
        series={[
          {
            name: 'within reach',
            x: link.points,
            y: link.series['rectifier.reachable_voltage']!,
            tone: 'var(--slate)',
            dash: '4 3',
          },
          { name: 'link', x: link.points, y: link.series['link.link_voltage']!, tone: 'var(--copper)' },
        ]}
        height={180}
      />
    </>
  )
}

function LossBars() {
  const { meta, sheet, corner, design } = useWorkspace()
  const curves = useQuery({
    queryKey: ['curves', JSON.stringify(design)],
    queryFn: () => call<{ efficiency: Curve }>('curves', { body: { design } }),
    placeholderData: (old) => old,
  })
  const parts = meta!.places
    .map((p) => ({ title: p.title, host: p.host, loss: at(sheet!.figures[`${p.name}.loss`], corner) ?? 0 }))
    .filter((p) => p.loss > 0.005)
    .sort((a, b) => b.loss - a.loss)
  const most = Math.max(...parts.map((p) => p.loss), 1e-9)
  return (
    <>
      <Head>Where the power goes, {sheet!.corners[corner]?.title}</Head>
      <svg
        className="plot"
        viewBox={`0 0 380 ${parts.length * 20 + 6}`}
        width="100%"
        role="img"
        aria-label="Loss by stage">
        {parts.map((p, i) => (
          <g key={i}>
            <text className="word" x="112" y={15 + i * 20} textAnchor="end">
              {p.title}
            </text>
            <rect x="118" y={5 + i * 20} width={Math.max(1, (p.loss / most) * 190)} height="12" fill="var(--copper)" />
            <text x={122 + (p.loss / most) * 190} y={15 + i * 20}>
              {text(p.loss, 'W')}
            </text>
          </g>
        ))}
      </svg>
      {curves.data && (
        <Plot
          title="Efficiency against load, build held"
          xName="load"
          xUnit=""
          yUnit=""
          yFrom={0.6}
          yTo={1}
          series={Object.entries(curves.data.efficiency.series).map(([name, y], i) => ({
            name,
            x: curves.data.efficiency.points,
            y,
            tone: ['var(--fail)', 'var(--copper)', 'var(--slate)'][i]!,
          }))}
        />
      )}
    </>
  )
}
