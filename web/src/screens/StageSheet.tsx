/** A stage: what is given, the worked figures as a ledger, and what it looks like with the judgements in sentences. */
import { useEffect, useMemo, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { call, type CheckValue, type Remedy } from '../api'
import { at, checksOf, verdictAt, worse } from '../state/figures'
import { range, text } from '../number'
import { useWorkspace } from '../state/workspace'
import { Caution } from '../ui/Caution'
import { Entry } from '../ui/Entry'
import { Mark } from '../ui/Mark'
import { Num, Symbol } from '../ui/Number'
import { StagePicture } from '../pictures/StagePicture'
import { lettersOn } from '../ui/dialogs'
import { PickPanel, WhyPanel } from './WhyPanel'

type Filter = 'all' | 'tight' | 'pinned'

export function StageSheet() {
  const { place = '' } = useParams()
  const { meta, sheet } = useWorkspace()
  const [params, setParams] = useSearchParams()
  const open = params.get('figure')
  const navigate = useNavigate()
  const [mode, setMode] = useState<'why' | 'pin' | 'seek'>('why')
  const here = meta?.places.find((p) => p.name === place)
  const keys = useMemo(
    () =>
      Object.entries(meta?.figures ?? {})
        .filter(([, f]) => f.place === place && (f.kind === 'build' || f.kind === 'operation'))
        .map(([k]) => k),
    [meta, place],
  )
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) ||
        target.closest('[role=dialog]')
      )
        return
      if (e.key === 'Escape') setParams({})
      if (!lettersOn() || !['w', 'p', 'g'].includes(e.key)) return
      e.preventDefault()
      if (!open && keys[0]) setParams({ figure: keys[0] })
      setMode(e.key === 'w' ? 'why' : e.key === 'p' ? 'pin' : 'seek')
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [open, keys, setParams])
  if (!meta || !sheet) return null
  if (!here) return <p className="wait">This line-up has no stage “{place}”. Choose one on the line above.</p>
  const select = (key: string) => {
    const owner = meta.figures[key]?.place ?? key.split('.')[0]!
    setMode('why')
    if (owner !== place) void navigate(`../stages/${owner}?figure=${key}`, { relative: 'path' })
    else setParams(open === key ? {} : { figure: key })
  }
  return (
    <main className="work">
      <section className="col" aria-label="Given">
        <Given place={place} select={select} />
      </section>
      <section className="col" aria-label="Worked figures">
        <Ledger place={place} title={here.title} open={open} select={select} />
      </section>
      <aside className="col side" aria-label="Why, judgements and picture">
        {open && meta.picks[open] ? (
          <PickPanel pickKey={open} onClose={() => setParams({})} />
        ) : open ? (
          <WhyPanel figure={open} select={select} mode={mode} setMode={setMode} onClose={() => setParams({})} />
        ) : null}
        <Judgements place={place} select={select} />
        {!open && <StagePicture place={here} />}
      </aside>
    </main>
  )
}

function Given({ place, select }: { place: string; select: (key: string) => void }) {
  const { meta, sheet, design, edit } = useWorkspace()
  const here = meta!.places.find((p) => p.name === place)!
  const givens = Object.entries(meta!.figures).filter(
    ([, f]) => f.place === place && f.kind === 'given' && (f.low === null || f.low !== f.high),
  )
  const choices = Object.entries(meta!.choices).filter(
    ([, c]) => c.place === place && Object.keys(c.options).length > 1,
  )
  const pins = Object.entries(design.pins).filter(([k]) => k.startsWith(`${place}.`))
  return (
    <>
      <Caution place={here} />
      <h2 className="cap">Given</h2>
      {choices.map(([key, c]) => (
        <div className="row2 wide" key={key}>
          <label htmlFor={key}>{c.title}</label>
          <select
            id={key}
            value={design.choices[key] ?? c.default}
            onChange={(e) =>
              edit(`${c.title}: ${c.options[e.target.value]}`, (d) => ({
                ...d,
                choices: { ...d.choices, [key]: e.target.value },
              }))
            }>
            {Object.entries(c.options).map(([k, title]) => (
              <option key={k} value={k}>
                {title}
              </option>
            ))}
          </select>
        </div>
      ))}
      {givens.map(([key, f]) => (
        <div className="row2" key={key}>
          <Entry
            id={key}
            label={`${f.title}${f.judgement ? ' *' : ''}`}
            note={f.sentence}
            value={sheet!.figures[key]?.values[0] ?? null}
            unit={f.unit}
            onValue={(v) => edit(f.title, (d) => ({ ...d, givens: { ...d.givens, [key]: v } }))}
          />
        </div>
      ))}
      {givens.length === 0 && choices.length === 0 && (
        <p className="quiet">Nothing is given here: all follows from other stages.</p>
      )}
      {givens.some(([, f]) => f.judgement) && (
        <p className="quiet" style={{ fontSize: 13 }}>
          * a value of experience: put your own.
        </p>
      )}
      {pins.length > 0 && (
        <h2 className="cap" style={{ marginTop: 20 }}>
          Pinned
        </h2>
      )}
      {pins.map(([key, pin]) => {
        const meta_ = meta!.figures[key]
        const figure = sheet!.figures[key]
        return (
          <div key={key} style={{ marginBottom: 10 }}>
            <div className="row2">
              <button className="act lab" onClick={() => select(key)}>
                {meta_?.title ?? meta!.picks[key]?.title ?? key}
              </button>
              <span className="pin">
                {pin.part ? `${pin.quantity}×${pin.part}` : text(pin.value, meta_?.unit ?? '', 4)}
              </span>
            </div>
            <div style={{ fontSize: 13 }} className="pinned">
              {pin.reason && `“${pin.reason}”`}
              {figure?.computed && ` · computed ${text(figure.computed[0], meta_?.unit ?? '', 4)}`}
            </div>
            <button
              className="act"
              style={{ fontSize: 13 }}
              onClick={() =>
                edit(`Unpinned ${meta_?.title ?? key}`, (d) => ({
                  ...d,
                  pins: Object.fromEntries(Object.entries(d.pins).filter(([k]) => k !== key)),
                }))
              }>
              Unpin
            </button>
          </div>
        )
      })}
    </>
  )
}

function Ledger({
  place,
  title,
  open,
  select,
}: {
  place: string
  title: string
  open: string | null
  select: (key: string) => void
}) {
  const { meta, sheet, corner, former } = useWorkspace()
  const [filter, setFilter] = useState<Filter>('all')
  const rows = Object.entries(meta!.figures).filter(
    ([, f]) => f.place === place && (f.kind === 'build' || f.kind === 'operation'),
  )
  const picks = Object.entries(meta!.picks).filter(([, p]) => p.place === place)
  const state = (key: string) => {
    const checks = checksOf(meta!, key)
      .map((c) => sheet!.checks[c])
      .filter((c): c is CheckValue => !!c)
    return {
      checks,
      verdict: checks.length
        ? checks.reduce<CheckValue['verdict']>((v, c) => worse(v, verdictAt(c, corner)), 'holds')
        : null,
      all: checks.reduce<CheckValue['verdict']>((v, c) => worse(v, c.verdict), 'holds'),
    }
  }
  const pinned = rows.filter(([k]) => sheet!.figures[k]?.pinned).length
  const tight = rows.filter(([k]) => state(k).all !== 'holds').length
  const shownRows = rows.filter(
    ([k]) => filter === 'all' || (filter === 'pinned' ? sheet!.figures[k]?.pinned : state(k).all !== 'holds'),
  )
  return (
    <>
      <h2 className="cap">
        {title}, worked figures
        <span className="filter">
          {(
            [
              ['all', `all ${rows.length + picks.length}`],
              ['tight', `tight or failing ${tight}`],
              ['pinned', `pinned ${pinned}`],
            ] as [Filter, string][]
          ).map(([f, name]) => (
            <button key={f} aria-pressed={filter === f} onClick={() => setFilter(f)}>
              {name}
            </button>
          ))}
        </span>
      </h2>
      <table className="ledger">
        <tbody>
          {filter === 'all' &&
            picks.map(([key, p]) => {
              const pick = sheet!.picks[key]!
              return (
                <tr key={key} className={open === key ? 'open' : ''} onClick={() => select(key)} data-figure={key}>
                  <td className="mark">
                    <Mark verdict={pick.fits ? 'holds' : 'tight'} />
                  </td>
                  <td className="name">
                    <button>{p.title}</button>
                  </td>
                  <td />
                  <td className={pick.pinned ? 'v pinned' : 'v'} colSpan={3}>
                    <span className="num">
                      {pick.quantity > 1 ? `${pick.quantity} × ` : ''}
                      {pick.part}
                    </span>
                    {!pick.fits && <span className="unit">nearest: none fits</span>}
                  </td>
                </tr>
              )
            })}
          {shownRows.map(([key, f]) => {
            const figure = sheet!.figures[key]
            if (!figure) return null
            const { checks, verdict } = state(key)
            const value = at(figure, corner)
            const known = figure.values.filter((v): v is number => v !== null)
            const spread =
              figure.values.length > 1 &&
              known.length > 1 &&
              Math.max(...known) - Math.min(...known) > 1e-6 * Math.abs(Math.max(...known))
            const spanned = spread ? range(Math.min(...known), Math.max(...known), f.unit) : ''
            const cause = figure.unknown?.[sheet!.corners[corner]!.id] ?? figure.unknown?.all
            const na = figure.does_not_apply?.[sheet!.corners[corner]!.id]
            return (
              <tr key={key} className={open === key ? 'open' : ''} onClick={() => select(key)} data-figure={key}>
                <td className="mark">{verdict && <Mark verdict={verdict} />}</td>
                <td className="name">
                  <button aria-expanded={open === key}>{f.title}</button>
                </td>
                <td>
                  <Symbol tex={f.symbol} />
                </td>
                <td className="v">
                  {former[key] !== undefined && former[key] !== null && (
                    <span className="former">{text(former[key], f.unit, 3)}</span>
                  )}
                  {cause ? (
                    <span className="quiet" title={cause}>
                      unknown
                    </span>
                  ) : na ? (
                    <span className="quiet" title={na}>
                      does not apply
                    </span>
                  ) : (
                    <Num value={value} unit={f.unit} pinned={figure.pinned} />
                  )}
                </td>
                <td className="range">
                  {figure.pinned && figure.computed ? `computed ${text(figure.computed[0], f.unit, 3)}` : spanned}
                </td>
                <td className="bar">
                  {checks[0] && (
                    <Margin
                      check={checks.reduce((a, b) =>
                        (a.margin[corner] ?? 9) / (a.hold ?? 1) <= (b.margin[corner] ?? 9) / (b.hold ?? 1) ? a : b,
                      )}
                      corner={corner}
                    />
                  )}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {shownRows.length === 0 && (
        <p className="quiet">
          {filter === 'pinned' ? 'Nothing is pinned here. Open a figure and press p.' : 'All of it holds.'}
        </p>
      )}
    </>
  )
}

/** Margin over fail, capped at two; a tick at one, a lighter one where it holds. */
function Margin({ check, corner }: { check: CheckValue; corner: number }) {
  const margin = check.margin.length === 1 ? check.margin[0] : check.margin[corner]
  const fail = check.fail ?? 1
  const share = margin === null || margin === undefined ? 2 : Math.min(margin / fail, 2)
  const verdict = verdictAt(check, corner)
  const tone = verdict === 'holds' ? 'var(--hold)' : verdict === 'tight' ? 'var(--tight)' : 'var(--fail)'
  return (
    <svg
      width="100"
      height="14"
      viewBox="0 0 100 14"
      role="img"
      aria-label={margin === null || margin === undefined ? 'no demand' : `margin ${margin.toPrecision(3)}`}>
      <rect x="0" y="5" width="100" height="5" fill="var(--track)" />
      <rect x="0" y="5" width={50 * share} height="5" fill={tone} />
      <line x1="50" x2="50" y1="1" y2="14" stroke="var(--ink)" strokeWidth="1.6" />
      {check.hold !== null && check.hold / fail < 2 && (
        <line x1={(50 * check.hold) / fail} x2={(50 * check.hold) / fail} y1="3" y2="12" stroke="var(--slate)" />
      )}
    </svg>
  )
}

function Judgements({ place, select }: { place: string; select: (key: string) => void }) {
  const { meta, sheet, design, edit } = useWorkspace()
  const keys = Object.entries(meta!.checks)
    .filter(([, c]) => c.place === place)
    .map(([k]) => k)
  const bad = keys.filter((k) => sheet!.checks[k] && sheet!.checks[k]!.verdict !== 'holds')
  const anywhere = Object.values(sheet!.checks).some((c) => c.verdict === 'fails' || c.verdict === 'tight')
  const remedies = useQuery({
    queryKey: ['remedies', JSON.stringify(design)],
    queryFn: () => call<Remedy[]>('remedies', { body: { design } }),
    enabled: anywhere && bad.length > 0,
    staleTime: Infinity,
    placeholderData: undefined,
  })
  const order = ['fails', 'unknown', 'tight', 'holds']
  const sorted = [...keys].sort(
    (a, b) => order.indexOf(sheet!.checks[a]!.verdict) - order.indexOf(sheet!.checks[b]!.verdict),
  )
  const apply = (r: Remedy) =>
    edit(r.sentence, (d) =>
      r.kind === 'given'
        ? { ...d, givens: { ...d.givens, [r.key]: r.after } }
        : {
            ...d,
            pins: {
              ...d.pins,
              [r.key]: {
                value: r.after,
                part: null,
                quantity: 1,
                reason: `remedy for: ${meta!.checks[r.check]?.title.toLowerCase()}`,
              },
            },
          },
    )
  const unpin = (key: string) =>
    edit(`Unpinned ${meta!.figures[key]?.title}`, (d) => ({
      ...d,
      pins: Object.fromEntries(Object.entries(d.pins).filter(([k]) => k !== key)),
    }))
  if (keys.length === 0) return null
  return (
    <>
      <h2 className="cap" style={{ marginTop: 6 }}>
        Judgements
      </h2>
      {sorted.map((k) => {
        const check = sheet!.checks[k]!
        const info = meta!.checks[k]!
        const pinnedDemand = [info.demand, info.capability].find((f) => design.pins[f])
        const pinnedNear = Object.keys(design.pins).find(
          (f) => f.startsWith(`${place}.`) && sheet!.figures[f]?.computed,
        )
        if (check.verdict === 'holds')
          return (
            <div className="judge" key={k} data-check={k}>
              <p className="quiet">{check.sentence}</p>
            </div>
          )
        const mine = remedies.data?.filter((r) => r.check === k) ?? []
        return (
          <div className={`judge ${check.verdict}`} key={k} data-check={k}>
            <p>
              <b className="head">
                {info.title}, {sheet!.corners.find((c) => c.id === check.worst)?.title}.
              </b>{' '}
              {check.sentence}{' '}
              <span className="quiet">
                {info.why}
                {info.harm === 'people' ? ' People can be hurt.' : ''}
              </span>
            </p>
            {(pinnedDemand ?? pinnedNear) && check.verdict === 'fails' && (
              <button className="act" onClick={() => unpin((pinnedDemand ?? pinnedNear)!)}>
                Unpin {meta!.figures[(pinnedDemand ?? pinnedNear)!]?.title.toLowerCase()} →{' '}
                {text(
                  sheet!.figures[(pinnedDemand ?? pinnedNear)!]?.computed?.[0],
                  meta!.figures[(pinnedDemand ?? pinnedNear)!]?.unit ?? '',
                  3,
                )}
              </button>
            )}
            {mine.map((r) => (
              <button className="act" key={r.key} data-remedy={r.key} onClick={() => apply(r)}>
                {r.sentence}
                {r.breaks.length > 0 && (
                  <span className="quiet" style={{ fontWeight: 400 }}>
                    {' '}
                    (then fails: {r.breaks.join(', ').toLowerCase()})
                  </span>
                )}
              </button>
            ))}
            {remedies.isFetching && <span className="quiet">seeking a remedy …</span>}
            {!remedies.isFetching && remedies.data && mine.length === 0 && (
              <button className="act" onClick={() => select(info.demand)}>
                No single move reaches it: see why
              </button>
            )}
          </div>
        )
      })}
    </>
  )
}
