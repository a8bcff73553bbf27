/** What the scope will show: one output period in exact steady state, two cursors, harmonics, meters. */
import { useQuery } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { call, type ScopeTold } from '../../api'
import { text } from '../../number'
import { useSheet } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Exports } from '../../ui/Exports'
import { Harmonics } from './Harmonics'
import { Meters, ReadOuts } from './ReadOuts'
import { FRAME, tracesCsv, viewAround } from './traces'
import { Traces, type Cursors } from './Traces'

interface Setting {
  load: string
  modulation: string
  sampling: string
  zoom: number
}
const LOADS = { brief: "the brief's", resistive: 'resistance of equal power', none: 'none' }

/** Besides the whole brief each load of its list may hang there alone. */
const loadsOf = (loads: readonly { place: string; title: string }[]): Record<string, string> => ({
  ...LOADS,
  ...Object.fromEntries(loads.map(({ place, title }) => [place, `only ${title}`])),
})
const MODULATIONS = { '': 'as designed', unipolar: 'unipolar', bipolar: 'bipolar' }
const SAMPLINGS = { '': 'as designed', regular: 'regular, asymmetric', natural: 'natural' }
const ZOOMS = { 1: 'one period', 4: '× 4', 16: '× 16' }

export default function Scope() {
  const { sheet, corner } = useSheet()
  const { design } = useWorkspace('design')
  const [setting, setSetting] = useState<Setting>({ load: 'brief', modulation: '', sampling: '', zoom: 1 })
  const [cursors, setCursors] = useState<Cursors>([0.25, 0.6])
  const svg = useRef<SVGSVGElement>(null)
  const ask = {
    design,
    corner: sheet.corners[corner]!.id,
    load: setting.load,
    modulation: setting.modulation || null,
    sampling: setting.sampling || null,
    pixels: FRAME.width * setting.zoom,
  }
  const query = useQuery({
    queryKey: ['scope', JSON.stringify(ask)],
    queryFn: () => call<ScopeTold>('scope', { body: ask }),
    placeholderData: (old) => old,
  })
  const [first] = cursors
  const view = useMemo(() => viewAround(first, setting.zoom), [first, setting.zoom])
  const move = (which: 0 | 1, share: number) => {
    const kept = Math.max(0, Math.min(1, share))
    setCursors(([a, b]) => (which ? [a, kept] : [kept, b]))
  }
  const p = query.error ? undefined : query.data
  const name = `${design.title} scope`
  return (
    <main className="work" style={{ gridTemplateColumns: 'minmax(0, 1fr) 340px' }}>
      <section className="col">
        {p && <Traces p={p} svg={svg} view={view} cursors={cursors} move={move} />}
        {query.error && (
          <p className="wrong" role="alert">
            {query.error.message}
          </p>
        )}
        {!p && !query.error && <p className="wait">Finding the steady state …</p>}
        <div className="settings">
          <Settings
            loads={loadsOf(design.loads)}
            setting={setting}
            change={(to) => setSetting((s) => ({ ...s, ...to }))}
          />
          {p && <Exports name={name} svg={() => svg.current} csv={() => tracesCsv(p)} />}
        </div>
        {p?.note && <p className="quiet">{p.note}</p>}
      </section>
      <aside className="col side">
        {p && (
          <>
            <ReadOuts p={p} cursors={cursors} />
            <h2 className="cap" style={{ marginTop: 18 }}>
              What your meter will show
            </h2>
            <Meters p={p} />
            {p.rectifier && <Rectifier of={p.rectifier} />}
            <h2 className="cap" style={{ marginTop: 18 }}>
              Harmonics of the output
            </h2>
            <Distortion p={p} limit={p.thd_limit} />
          </>
        )}
      </aside>
    </main>
  )
}

interface SettingsProps {
  loads: Record<string, string>
  setting: Setting
  change: (to: Partial<Setting>) => void
}

function Settings({ loads, setting, change }: SettingsProps) {
  return (
    <>
      <SettingList name="Load" options={loads} value={setting.load} onValue={(load) => change({ load })} />
      <SettingList
        name="Modulation"
        options={MODULATIONS}
        value={setting.modulation}
        onValue={(modulation) => change({ modulation })}
      />
      <SettingList
        name="Sampling"
        options={SAMPLINGS}
        value={setting.sampling}
        onValue={(sampling) => change({ sampling })}
      />
      <SettingList
        name="Zoom"
        options={ZOOMS}
        value={String(setting.zoom)}
        onValue={(zoom) => change({ zoom: Number(zoom) })}
      />
    </>
  )
}

interface SettingListProps {
  name: string
  options: Record<string, string>
  value: string
  onValue: (value: string) => void
}

function SettingList({ name, options, value, onValue }: SettingListProps) {
  return (
    <label>
      {name}{' '}
      <select value={value} onChange={(e) => onValue(e.target.value)} aria-label={name}>
        {Object.entries(options).map(([key, title]) => (
          <option key={key} value={key}>
            {title}
          </option>
        ))}
      </select>
    </label>
  )
}

function Rectifier({ of }: { of: NonNullable<ScopeTold['rectifier']> }) {
  return (
    <p data-testid="rectifier">
      The rectifiers draw <b className="num">{text(of.watts, 'W')}</b> at <b className="num">{text(of.rms, 'A')}</b>{' '}
      rms, peak <b className="num">{text(of.peak, 'A')}</b>: crest factor{' '}
      <b className="num">{of.crest_factor.toFixed(2)}</b>, power factor{' '}
      <b className="num">{of.power_factor.toFixed(2)}</b>.
    </p>
  )
}

function Distortion({ p, limit }: { p: ScopeTold; limit: number }) {
  const percent = (share: number) => `${(share * 100).toPrecision(2)} %`
  return (
    <>
      <Harmonics p={p} limit={limit} />
      <p data-testid="thd">
        THD <b className="num">{percent(p.thd)}</b> to the 40th, carrier residue{' '}
        <b className="num">{percent(p.residue)}</b>. Limit {percent(limit)}:{' '}
        {p.thd > limit ? 'it fails.' : p.thd * 1.1 > limit ? 'tight.' : 'it holds.'} The sheet reckons with at most{' '}
        {percent(p.expected_distortion)}.
      </p>
      <p className="quiet">
        Dead time ({text(p.dead_time, 's')}) is in the edges, and the link gives way: it ripples by{' '}
        {text(p.link_ripple, 'V')} peak to peak, fed by the front end behind its own impedance. Carrier ripple{' '}
        {text(p.ripple, 'V')} peak to peak on the output, {text(p.choke_ripple, 'A')} in the choke, which peaks at{' '}
        {text(p.choke_peak, 'A')}; {p.edges} edges a period, {p.sampling}, modulation index {p.index.toFixed(3)}.
      </p>
    </>
  )
}
