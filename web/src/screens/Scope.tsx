/** What the scope will show: one output period in exact steady state, two cursors, harmonics, meters. */
import { useQuery } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { call, type ScopePicture, type Trace } from '../api'
import { shown, text } from '../number'
import { useWorkspace } from '../state/workspace'
import { saveText, svgToPng } from '../ui/save'

const W = 900
const L = 66
const valueAt = (t: Trace, x: number) => {
  let lo = 0,
    hi = t.t.length - 1
  while (lo < hi) {
    const m = (lo + hi + 1) >> 1
    if (t.t[m]! <= x) lo = m
    else hi = m - 1
  }
  return t.v[lo] ?? 0
}

export default function Scope() {
  const { design, sheet, corner } = useWorkspace()
  const [load, setLoad] = useState('brief')
  const [modulation, setModulation] = useState('')
  const [sampling, setSampling] = useState('')
  const [cursors, setCursors] = useState<[number, number]>([0.25, 0.6])
  const [zoom, setZoom] = useState(1)
  const svg = useRef<SVGSVGElement>(null)
  const id = sheet!.corners[corner]!.id
  const ask = {
    design,
    corner: id,
    load,
    modulation: modulation || null,
    sampling: sampling || null,
    pixels: 900 * zoom,
  }
  const query = useQuery({
    queryKey: ['scope', JSON.stringify(ask)],
    queryFn: () => call<ScopePicture>('scope', { body: ask }),
    placeholderData: (old) => old,
  })
  const p = query.data
  const limit = sheet!.figures['output.thd_limit']?.values[0] ?? 0.03
  const from = zoom === 1 ? 0 : Math.max(0, Math.min(1 - 1 / zoom, cursors[0] - 0.5 / zoom))
  const csv = () => {
    const t = p!.traces
    return [
      'time s,bridge node V,choke A,output V',
      ...t.output.t.map((x, i) => [x, valueAt(t.node, x), valueAt(t.choke, x), t.output.v[i]].join(',')),
    ].join('\n')
  }
  const move = (which: 0 | 1, x: number) =>
    setCursors((c) => {
      const next: [number, number] = [...c]
      next[which] = Math.max(0, Math.min(1, x))
      return next
    })
  const drag = (which: 0 | 1) => (e: React.PointerEvent) => {
    e.currentTarget.setPointerCapture(e.pointerId)
    const on = (m: PointerEvent) => {
      const box = svg.current!.getBoundingClientRect()
      move(which, from + (((m.clientX - box.left) / box.width) * W - L) / (W - L - 12) / zoom)
    }
    const off = () => {
      window.removeEventListener('pointermove', on)
      window.removeEventListener('pointerup', off)
    }
    window.addEventListener('pointermove', on)
    window.addEventListener('pointerup', off)
  }
  if (query.error) return <p className="wait">{query.error.message}</p>
  if (!p) return <p className="wait">Finding the steady state …</p>
  return (
    <main className="work" style={{ gridTemplateColumns: 'minmax(0, 1fr) 340px' }}>
      <section className="col">
        <Traces p={p} svg={svg} cursors={cursors} drag={drag} move={move} from={from} zoom={zoom} />
        <p style={{ display: 'flex', flexWrap: 'wrap', gap: '6px 20px', alignItems: 'baseline' }}>
          <label>
            Load{' '}
            <select value={load} onChange={(e) => setLoad(e.target.value)} aria-label="Load">
              <option value="brief">the brief's, R-L</option>
              <option value="resistive">resistance of equal power</option>
              <option value="none">none</option>
            </select>
          </label>
          <label>
            Modulation{' '}
            <select value={modulation} onChange={(e) => setModulation(e.target.value)} aria-label="Modulation">
              <option value="">as designed</option>
              <option value="unipolar">unipolar</option>
              <option value="bipolar">bipolar</option>
            </select>
          </label>
          <label>
            Sampling{' '}
            <select value={sampling} onChange={(e) => setSampling(e.target.value)} aria-label="Sampling">
              <option value="">as designed</option>
              <option value="regular">regular</option>
              <option value="natural">natural</option>
            </select>
          </label>
          <label>
            Zoom{' '}
            <select value={zoom} onChange={(e) => setZoom(Number(e.target.value))} aria-label="Zoom">
              <option value={1}>one period</option>
              <option value={4}>× 4</option>
              <option value={16}>× 16</option>
            </select>
          </label>
          <span>
            <button className="act" onClick={() => svg.current && svgToPng(svg.current, `${design.title} scope`)}>
              PNG
            </button>{' '}
            ·{' '}
            <button className="act" onClick={() => saveText(csv(), `${design.title} scope.csv`, 'text/csv')}>
              CSV
            </button>
          </span>
        </p>
        {p.note && <p className="quiet">{p.note}</p>}
      </section>
      <aside className="col side">
        <ReadOuts p={p} cursors={cursors} />
        <h2 className="cap" style={{ marginTop: 18 }}>
          What your meter will show
        </h2>
        <table className="table" data-testid="meters">
          <thead>
            <tr>
              <th />
              <th className="r">true rms</th>
              <th className="r">average</th>
              <th className="r">peak</th>
            </tr>
          </thead>
          <tbody>
            {(
              [
                ['output', 'Output, V'],
                ['node', 'Bridge node, V'],
              ] as const
            ).map(([k, name]) => (
              <tr key={k}>
                <td>{name}</td>
                {[p.meters[k].true_rms, p.meters[k].average, p.meters[k].peak_scaled].map((v, i) => (
                  <td key={i} className="r num">
                    {v.toFixed(1)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <h2 className="cap" style={{ marginTop: 18 }}>
          Harmonics of the output
        </h2>
        <Harmonics p={p} limit={limit} />
        <p data-testid="thd">
          THD <b className="num">{(p.thd * 100).toPrecision(2)} %</b> to the 40th, carrier residue{' '}
          <b className="num">{(p.residue * 100).toPrecision(2)} %</b>. Limit {(limit * 100).toPrecision(2)} %.
        </p>
        <p className="quiet">
          Ripple {text(p.ripple, 'V')} peak to peak on the output, {text(p.choke_ripple, 'A')} in the choke; {p.edges}{' '}
          edges a period. Ideal edges: dead time is in the sheet's peak, not yet in this picture.
        </p>
      </aside>
    </main>
  )
}

interface TracesProps {
  p: ScopePicture
  svg: React.RefObject<SVGSVGElement | null>
  cursors: [number, number]
  drag: (which: 0 | 1) => (e: React.PointerEvent) => void
  move: (which: 0 | 1, x: number) => void
  from: number
  zoom: number
}

function Traces({ p, svg, cursors, drag, move, from, zoom }: TracesProps) {
  const X = (t: number) => L + (t / p.period - from) * zoom * (W - L - 12)
  const within = (t: number) => t / p.period >= from - 0.02 && t / p.period <= from + 1 / zoom + 0.02
  const peak = (t: Trace) => {
    let most = 0
    for (const v of t.v) most = Math.max(most, Math.abs(v))
    return most * 1.12
  }
  const scale = { output: peak(p.traces.output), choke: peak(p.traces.choke), node: peak(p.traces.node) }
  const path = (t: Trace, middle: number, half: number, full: number) => {
    let d = ''
    for (let i = 0; i < t.t.length; i++) {
      if (within(t.t[i]!))
        d += `${d ? 'L' : 'M'}${X(t.t[i]!).toFixed(1)} ${(middle - (t.v[i]! / full) * half).toFixed(1)}`
    }
    return d
  }
  const grid = Array.from({ length: 5 }, (_, i) => from + i / (4 * zoom))
  const paths = useMemo(
    () => [
      path(p.traces.output, 122, 108, scale.output),
      path(p.traces.choke, 122, 108, scale.choke),
      path(p.traces.node, 340, 84, scale.node),
    ],
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the helpers depend on these three alone
    [p, from, zoom],
  )
  return (
    <svg
      ref={svg}
      className="plot"
      viewBox={`0 0 ${W} 476`}
      width="100%"
      role="img"
      aria-label="Waveforms of one output period">
      <defs>
        <clipPath id="in">
          <rect x={L} y="0" width={W - L - 12} height="476" />
        </clipPath>
      </defs>
      {grid.map((g) => (
        <g key={g}>
          <line className="axis" x1={X(g * p.period)} x2={X(g * p.period)} y1="14" y2="428" />
          <text x={X(g * p.period)} y="446" textAnchor={X(g * p.period) > W - 30 ? 'end' : 'middle'}>
            {text(g * p.period, 's')}
          </text>
        </g>
      ))}
      {[14, 122, 230, 256, 340, 424].map((y) => (
        <line key={y} className="axis" x1={L} x2={W - 12} y1={y} y2={y} />
      ))}
      {[
        ['', 14 + 4, scale.output, 'V'],
        ['0', 126, 0, ''],
        ['', 230, -scale.output, 'V'],
        ['', 260, scale.node, 'V'],
        ['0', 344, 0, ''],
        ['', 424, -scale.node, 'V'],
      ].map(([name, y, v, unit], i) => (
        <text key={i} x={L - 6} y={Number(y)} textAnchor="end">
          {name || `${Math.round(Number(v))} ${unit}`}
        </text>
      ))}
      <g clipPath="url(#in)" fill="none">
        <path d={paths[1]} stroke="var(--hold)" strokeWidth={zoom > 1 ? 1.3 : 0.7} />
        <path d={paths[0]} stroke="var(--copper)" strokeWidth="2" />
        <path d={paths[2]} stroke="var(--slate)" strokeWidth={zoom > 4 ? 1.2 : zoom > 1 ? 0.7 : 0.28} />
      </g>
      <text className="word" x={W - 18} y="30" textAnchor="end" style={{ fill: 'var(--copper)' }}>
        output voltage
      </text>
      <text className="word" x={W - 18} y="46" textAnchor="end" style={{ fill: 'var(--hold)' }}>
        choke current, ±{shown(scale.choke, 'A').number} A full height
      </text>
      <text className="word" x={W - 18} y="272" textAnchor="end" style={{ fill: 'var(--slate)' }}>
        bridge node
      </text>
      {([0, 1] as const).map((k) => {
        const x = X(cursors[k] * p.period)
        if (x < L - 1 || x > W - 11) return null
        return (
          <g
            key={k}
            role="slider"
            tabIndex={0}
            aria-label={`Cursor ${k ? 'B' : 'A'}`}
            aria-valuenow={cursors[k]}
            onPointerDown={drag(k)}
            style={{ cursor: 'ew-resize' }}
            onKeyDown={(e) => {
              if (e.key === 'ArrowLeft' || e.key === 'ArrowRight') {
                e.preventDefault()
                move(k, cursors[k] + ((e.key === 'ArrowRight' ? 1 : -1) * (e.shiftKey ? 0.02 : 0.002)) / zoom)
              }
            }}>
            <rect x={x - 8} y="0" width="16" height="430" fill="transparent" />
            <line x1={x} x2={x} y1="14" y2="428" stroke="var(--ink)" strokeDasharray={k ? '4 3' : undefined} />
            <path
              d={`M${x} 1L${x + 7} 8L${x} 15L${x - 7} 8Z`}
              fill={k ? 'var(--sheet)' : 'var(--ink)'}
              stroke="var(--ink)"
              strokeWidth="1.6"
            />
          </g>
        )
      })}
    </svg>
  )
}

function ReadOuts({ p, cursors }: { p: ScopePicture; cursors: [number, number] }) {
  const [a, b] = cursors.map((c) => c * p.period) as [number, number]
  const rows = [
    ['Bridge node, V', p.traces.node],
    ['Choke, A', p.traces.choke],
    ['Output, V', p.traces.output],
  ] as const
  const dt = b - a
  return (
    <>
      <h2 className="cap">
        Read-outs{' '}
        <span className="num" style={{ textTransform: 'none', letterSpacing: 0 }}>
          Δt {text(dt, 's')}
          {dt !== 0 && ` · ${text(1 / Math.abs(dt), 'Hz')}`}
        </span>
      </h2>
      <table className="table" data-testid="readouts">
        <thead>
          <tr>
            <th />
            <th className="r">◆ A</th>
            <th className="r">◇ B</th>
            <th className="r">B − A</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, t]) => {
            const [x, y] = [valueAt(t, a), valueAt(t, b)]
            return (
              <tr key={name}>
                <td>{name}</td>
                {[x, y, y - x].map((v, i) => (
                  <td key={i} className="r num">
                    {Math.abs(v) < 20 ? v.toFixed(2) : v.toFixed(1)}
                  </td>
                ))}
              </tr>
            )
          })}
        </tbody>
      </table>
    </>
  )
}

function Harmonics({ p, limit }: { p: ScopePicture; limit: number }) {
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
