/** A stage's circuit and its probe: a part opens its figures, a node or a part shows the trace that a scope would show there. */
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { call, type PlaceMeta } from '../api'
import type { Drawn, DrawnPart, ProbedTrace, ProbeTold } from '../api/schema'
import { text } from '../number'
import { Head } from '../pictures/Head'
import { valueAt, viewAround } from '../screens/scope/traces'
import type { Cursors } from '../screens/scope/Traces'
import { standing } from '../state/standing'
import { useSelected } from '../state/sheet'
import { useWorkspace } from '../state/workspace'
import { Exports } from '../ui/Exports'
import { saveText } from '../ui/save'
import { Scroll } from '../ui/Scroll'
import { Drawing } from './Drawing'
import { vcd } from './gates'
import { ProbePlot, TONES } from './ProbePlot'

const MOST = 4

export default function Schematic({ place, select }: { place: PlaceMeta; select: (figure: string) => void }) {
  const { solved: design } = useWorkspace('solved')
  const corner = useSelected((s) => s.sheet.corners[s.corner]!.id)
  const written = JSON.stringify(design)
  const drawn = useQuery({
    queryKey: ['schematic', place.name, corner, written],
    queryFn: () => call<Drawn>('schematic', { body: { design, place: place.name, corner } }),
    placeholderData: standing<Drawn>(place.name),
  })
  const [look, setLook] = useState(0)
  const [own, setOwn] = useState<string[] | null>(null)
  const [chosen, setChosen] = useState('')
  const svg = useRef<SVGSVGElement>(null)
  if (drawn.error) return <p className="wrong">{drawn.error.message}</p>
  if (!drawn.data) return null
  const looked = drawn.data.looks[look]
  const probes = own ?? looked?.probes ?? []
  const probe = (what: string) =>
    setOwn(probes.includes(what) ? probes.filter((p) => p !== what) : [...probes, what].slice(-MOST))
  const open = (part: DrawnPart) => {
    setChosen(part.name)
    if (part.figure) select(part.figure)
  }
  const part = drawn.data.parts.find((p) => p.name === chosen)
  return (
    <section aria-label="Schematic and probe" data-testid="schematic">
      <Head>
        Circuit <span className="filter">a part opens its figures, a node its trace</span>
      </Head>
      <Scroll of={`Circuit of ${place.title}`}>
        <Drawing
          ref={svg}
          drawn={drawn.data}
          probes={probes}
          probe={probe}
          open={open}
          chosen={chosen}
          label={`Circuit of ${place.title}`}
        />
      </Scroll>
      <p className="small">
        <Exports name={`${place.title} circuit`} svg={() => svg.current} />
        {part && looked && (
          <span className="noprint">
            {' '}
            · {part.title}:{' '}
            {(['i', 'v'] as const).map((kind) => (
              <button key={kind} className="act" onClick={() => probe(`${kind} ${part.name}`)}>
                {probes.includes(`${kind} ${part.name}`) ? 'without its ' : 'probe its '}
                {kind === 'i' ? 'current' : 'voltage'}{' '}
              </button>
            ))}
          </span>
        )}
      </p>
      {looked && drawn.data.looks.length > 1 && (
        <p className="small noprint">
          {drawn.data.looks.map((l, k) => (
            <button
              key={l.title}
              className="act"
              aria-pressed={k === look}
              style={{ marginRight: 12, fontWeight: k === look ? 700 : 400 }}
              onClick={() => {
                setLook(k)
                setOwn(null)
              }}>
              {l.title}
            </button>
          ))}
        </p>
      )}
      {looked && probes.length > 0 && (
        <Probe key={looked.title} place={place.name} corner={corner} look={looked.title} probes={probes} drop={probe} />
      )}
    </section>
  )
}

interface ProbeProps {
  place: string
  corner: string
  look: string
  probes: string[]
  drop: (what: string) => void
}

function Probe({ place, corner, look, probes, drop }: ProbeProps) {
  const { solved: design } = useWorkspace('solved')
  const asked = JSON.stringify([look, probes, corner])
  const told = useQuery({
    queryKey: ['probe', place, asked, JSON.stringify(design)],
    queryFn: () => call<ProbeTold>('probe', { body: { design, place, corner, look, probes } }),
    placeholderData: (old: ProbeTold | undefined) => old,
  })
  const before = useBefore(told.isPlaceholderData ? undefined : told.data, asked)
  const [cursors, setCursors] = useState<Cursors>([0.25, 0.75])
  const [zoom, setZoom] = useState(1)
  const svg = useRef<SVGSVGElement>(null)
  if (told.error) return <p className="wrong">{told.error.message}</p>
  if (!told.data) return <p className="quiet">Looking for the state that repeats itself …</p>
  const { traces, seconds } = told.data
  const move = (which: 0 | 1, share: number) => {
    const held = Math.max(0, Math.min(1, share))
    setCursors((c) => (which ? [c[0], held] : [held, c[1]]))
  }
  const csv = () =>
    [
      ['time s', ...traces.map((t) => `${t.name} ${t.unit}`)].join(','),
      ...traces[0]!.times.map((x) => [x, ...traces.map((t) => valueAt({ t: t.times, v: t.values }, x))].join(',')),
    ].join('\n')
  return (
    <div data-testid="probe">
      <Head>
        {look}{' '}
        <span className="filter">
          <button className="act" onClick={() => setZoom(zoom >= 64 ? 1 : zoom * 4)}>
            {zoom === 1 ? 'magnify about A' : `× ${zoom}`}
          </button>
        </span>
      </Head>
      <ProbePlot
        told={told.data}
        before={before}
        svg={svg}
        view={viewAround(cursors[0], zoom)}
        cursors={cursors}
        move={move}
      />
      <Readings traces={traces} seconds={seconds} cursors={cursors} probes={probes} drop={drop} />
      <p className="quiet small">
        {told.data.turns} turns in {text(seconds, 's')}; energy balanced to {told.data.balance.toExponential(0)}.{' '}
        {before && 'In grey: before the last edit. '}
        <Exports name={look} svg={() => svg.current} csv={csv} />
        {told.data.gates.length > 0 && (
          <>
            {' '}
            ·{' '}
            <button
              className="act noprint"
              onClick={() => saveText(vcd(told.data, place), `${place} gates.vcd`, 'text/plain')}>
              gates as VCD
            </button>
          </>
        )}
      </p>
    </div>
  )
}

/** What was shown before the design was edited, of the same question. */
function useBefore(told: ProbeTold | undefined, asked: string): ProbeTold | null {
  const [kept, setKept] = useState<{ asked: string; now: ProbeTold; before: ProbeTold | null } | null>(null)
  useEffect(() => {
    if (!told) return
    setKept((k) => {
      if (k?.now === told) return k
      return { asked, now: told, before: k && k.asked === asked ? k.now : null }
    })
  }, [told, asked])
  return kept?.asked === asked ? kept.before : null
}

interface ReadingsProps {
  traces: ProbedTrace[]
  seconds: number
  cursors: Cursors
  probes: string[]
  drop: (what: string) => void
}

function Readings({ traces, seconds, cursors, probes, drop }: ReadingsProps) {
  const [a, b] = cursors.map((c) => c * seconds) as [number, number]
  return (
    <table className="table readings">
      <thead>
        <tr>
          <th>
            <span className="num" style={{ textTransform: 'none', letterSpacing: 0 }}>
              Δt {text(b - a, 's')}
            </span>
          </th>
          {['◆ A', '◇ B', 'mean', 'true rms', 'average', 'peak'].map((h) => (
            <th key={h} className="r">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {traces.map((t, i) => {
          const [x, y] = [a, b].map((at) => valueAt({ t: t.times, v: t.values }, at)) as [number, number]
          return (
            <tr key={t.unit + t.name}>
              <td style={{ color: `var(--${TONES[i]})` }}>
                {t.name}, {t.unit}{' '}
                <button className="act noprint" aria-label={`Remove ${t.name}`} onClick={() => drop(probes[i]!)}>
                  ×
                </button>
              </td>
              {[x, y, t.mean, t.meter.true_rms, t.meter.average, t.meter.peak].map((v, k) => (
                <td key={k} className="r num" style={{ whiteSpace: 'nowrap' }}>
                  {/* What is left of a number that is none is not read out. */}
                  {text(Math.abs(v) < 1e-7 * t.meter.peak ? 0 : v, t.unit)}
                </td>
              ))}
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}
