/** A stage's circuit and its probe: a part opens its figures, a node or a part shows the trace that a scope would show there. */
import { useQuery } from '@tanstack/react-query'
import { memo, useCallback, useMemo, useRef, useState, type RefObject } from 'react'
import { call, type PlaceMeta } from '../api'
import type { Drawn, ProbedTrace, ProbeTold, ReadingsTold } from '../api/schema'
import { text } from '../number'
import { valueAt, viewAround } from '../screens/scope/traces'
import type { Cursors } from '../screens/scope/Traces'
import { standing } from '../state/standing'
import { useSelected } from '../state/sheet'
import { useWorkspace } from '../state/workspace'
import { Exports } from '../ui/Exports'
import { saveText } from '../ui/save'
import { Scroll } from '../ui/Scroll'
import { Awaited, useHeight } from './Awaited'
import { Drawing, type Opened } from './Drawing'
import { vcd } from './gates'
import { ProbePlot, TONES } from './ProbePlot'

/** No probes: always the same, so that nothing is drawn anew. */
const NONE: string[] = []
const MOST = 4
const BETWEEN = '\n'

interface SchematicProps {
  place: PlaceMeta
  select: (figure: string) => void
}

export default memo(function Schematic({ place, select }: SchematicProps) {
  const { solved: design } = useWorkspace('solved')
  const corner = useSelected((s) => s.sheet.corners[s.corner]!.id)
  const drawn = useQuery({
    queryKey: ['schematic', place.name, corner, JSON.stringify(design)],
    queryFn: () => call<Drawn>('schematic', { body: { design, place: place.name, corner } }),
    placeholderData: standing<Drawn>(place.name),
  })
  const [look, setLook] = useState(0)
  const [own, setOwn] = useState<string[] | null>(null)
  const [chosen, setChosen] = useState('')
  const svg = useRef<SVGSVGElement>(null)
  const height = useHeight<HTMLElement>('circuit', place.name)
  // Every answer brings them anew; as long as they are the same nothing is probed again.
  const written = drawn.data?.looks[look]?.probes.join(BETWEEN)
  const usual = useMemo(() => written?.split(BETWEEN), [written])
  const probe = useCallback(
    (what: string) =>
      setOwn((own) => {
        const probes = own ?? usual ?? []
        return probes.includes(what) ? probes.filter((p) => p !== what) : [...probes, what].slice(-MOST)
      }),
    [usual],
  )
  const open = useCallback(
    (part: Opened) => {
      setChosen(part.name)
      if (part.figure) select(part.figure)
    },
    [select],
  )
  const [reads, setReads] = useState(false)
  const title = drawn.data?.looks[look]?.title
  const readings = useQuery({
    queryKey: ['readings', place.name, corner, title, JSON.stringify(design)],
    queryFn: () => call<ReadingsTold>('readings', { body: { design, place: place.name, corner, look: title } }),
    placeholderData: standing<ReadingsTold>(place.name),
    enabled: reads && !!title,
  })
  const probes = own ?? usual ?? NONE
  const shown = reads ? readings.data : undefined
  // Until the answer to an edit is there what stands is not drawn again.
  const circuit = useMemo(
    () =>
      drawn.data && (
        <Scroll of={`Circuit of ${place.title}`}>
          <Drawing
            svg={svg}
            drawn={drawn.data}
            probes={probes}
            probe={probe}
            open={open}
            chosen={chosen}
            readings={shown}
            label={`Circuit of ${place.title}`}
          />
        </Scroll>
      ),
    [drawn.data, probes, probe, open, chosen, shown, place.title],
  )
  if (drawn.error) return <p className="wrong">{drawn.error.message}</p>
  if (!drawn.data) return <Awaited of="circuit" place={place.name} says="Drawing the circuit …" />
  const looked = drawn.data.looks[look]
  const part = drawn.data.parts.find((p) => p.name === chosen)
  return (
    <section aria-label="Schematic and probe" data-testid="schematic" ref={height}>
      <h2 className="cap" style={{ marginTop: 16 }}>
        Circuit <span className="filter">a part opens its figures, a node its trace</span>
      </h2>
      {circuit}
      <p className="small">
        {exportsOf(`${place.title} circuit`, svg)}
        {looked && (
          <span className="noprint">
            {' '}
            ·{' '}
            <button className="act" aria-pressed={reads} onClick={() => setReads(!reads)}>
              {reads ? 'without readings' : 'volts and amperes'}
            </button>
            {reads && <span className="quiet"> mean V at the nodes (~ rms), rms A through the parts</span>}
            {readings.error && <span className="wrong"> {readings.error.message}</span>}
          </span>
        )}
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
        <>
          <Probe
            key={looked.title}
            place={place.name}
            corner={corner}
            look={looked.title}
            probes={probes}
            drop={probe}
          />
          {looked.note && (
            <p className="quiet small" style={{ margin: '4px 0 16px' }}>
              {looked.note}
            </p>
          )}
        </>
      )}
    </section>
  )
})

interface ProbeProps {
  place: string
  corner: string
  look: string
  probes: string[]
  drop: (what: string) => void
}

const Probe = memo(function Probe({ place, corner, look, probes, drop }: ProbeProps) {
  const { solved: design } = useWorkspace('solved')
  const asked = JSON.stringify([look, probes, corner])
  const told = useQuery({
    queryKey: ['probe', place, asked, JSON.stringify(design)],
    queryFn: () => call<ProbeTold>('probe', { body: { design, place, corner, look, probes } }),
    placeholderData: (old: ProbeTold | undefined) => old,
  })
  const before = useBefore(told.isPlaceholderData ? undefined : told.data, asked)
  if (told.error) return <p className="wrong">{told.error.message}</p>
  if (!told.data) return <Awaited of="probe" place={place} says="Looking for the state that repeats itself …" />
  return <Traced place={place} look={look} told={told.data} before={before} probes={probes} drop={drop} />
})

/** What was shown before the design was edited, of the same question. */
function useBefore(told: ProbeTold | undefined, asked: string): ProbeTold | null {
  const [kept, setKept] = useState<{ asked: string; now?: ProbeTold; before: ProbeTold | null }>({
    asked,
    before: null,
  })
  // Noted while it is drawn, so that the former traces come with the new ones.
  if (told && kept.now !== told) setKept({ asked, now: told, before: kept.asked === asked ? (kept.now ?? null) : null })
  return kept.asked === asked ? kept.before : null
}

interface TracedProps {
  place: string
  look: string
  told: ProbeTold
  before: ProbeTold | null
  probes: string[]
  drop: (what: string) => void
}

const Traced = memo(function Traced({ place, look, told, before, probes, drop }: TracedProps) {
  const [cursors, setCursors] = useState<Cursors>([0.25, 0.75])
  const [zoom, setZoom] = useState(1)
  const height = useHeight<HTMLDivElement>('probe', place)
  const svg = useRef<SVGSVGElement>(null)
  const view = useMemo(() => viewAround(cursors[0], zoom), [cursors, zoom])
  const move = useCallback((which: 0 | 1, share: number) => {
    const held = Math.max(0, Math.min(1, share))
    setCursors((c) => (which ? [c[0], held] : [held, c[1]]))
  }, [])
  const { traces, seconds } = told
  const csv = () =>
    [
      ['time s', ...traces.map((t) => `${t.name} ${t.unit}`)].join(','),
      ...traces[0]!.times.map((x) => [x, ...traces.map((t) => valueAt({ t: t.times, v: t.values }, x))].join(',')),
    ].join('\n')
  return (
    <div data-testid="probe" ref={height}>
      <h2 className="cap" style={{ marginTop: 16 }}>
        {look}{' '}
        <span className="filter">
          <button className="act" onClick={() => setZoom(zoom >= 64 ? 1 : zoom * 4)}>
            {zoom === 1 ? 'magnify about A' : `× ${zoom}`}
          </button>
        </span>
      </h2>
      <ProbePlot told={told} before={before} svg={svg} view={view} cursors={cursors} move={move} />
      <Scroll of="Readings of the traces">{readings({ traces, seconds, cursors, probes, drop })}</Scroll>
      <p className="quiet small">
        {told.turns} {told.turns === 1 ? 'turn' : 'turns'} in {text(seconds, 's')}; energy balanced
        {told.balance > 0 ? ` to ${told.balance.toExponential(0)}` : ''}. {before && 'In grey: before the last edit. '}
        {exportsOf(look, svg, csv)}
        {told.gates.length > 0 && (
          <>
            {' '}
            ·{' '}
            <button
              className="act noprint"
              onClick={() => saveText(vcd(told, place), `${place} gates.vcd`, 'text/plain')}>
              gates as VCD
            </button>
          </>
        )}
      </p>
    </div>
  )
})

/** What a drawing can be saved as. */
const exportsOf = (name: string, svg: RefObject<SVGSVGElement | null>, csv?: () => string) =>
  Exports({ name, svg: () => svg.current, csv })

interface ReadingsProps {
  traces: ProbedTrace[]
  seconds: number
  cursors: Cursors
  probes: string[]
  drop: (what: string) => void
}

/** What is read off every trace. */
const READ = [
  ['◆ A', 'at the first cursor'],
  ['◇ B', 'at the second cursor'],
  ['mean', 'over the whole trace'],
  ['true rms', 'over the whole trace'],
  ['avg. meter', 'what an average-responding meter shows: 1.11 × the mean of what it rectifies'],
  ['peak', 'farthest from nothing'],
] as const

function readings({ traces, seconds, cursors, probes, drop }: ReadingsProps) {
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
          {READ.map(([h, said]) => (
            <th key={h} className="r" title={said}>
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
              <td style={{ color: `var(--${i === 0 ? 'copper-text' : TONES[i]})` }}>
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
