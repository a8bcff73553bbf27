/** Why a number is what it is: formula, numbers put in, neighbours to walk to, what moves it most, pin, goal seek. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { call, type Bar, type Sought, type Why } from '../api'
import { text } from '../number'
import { useWorkspace } from '../state/workspace'
import { Entry } from '../ui/Entry'
import { Tex } from '../ui/Tex'

type Mode = 'why' | 'pin' | 'seek'
interface Props {
  figure: string
  select: (key: string) => void
  mode: Mode
  setMode: (mode: Mode) => void
  onClose: () => void
}

export function WhyPanel({ figure, select, mode, setMode, onClose }: Props) {
  const { design, sheet, corner, meta, edit } = useWorkspace()
  const id = sheet!.corners[corner]!.id
  const ask = { design, key: figure, corner: id }
  const stamp = JSON.stringify(design)
  const why = useQuery({
    queryKey: ['why', figure, id, stamp],
    queryFn: () => call<Why>('why', { body: ask }),
    placeholderData: (old) => (old?.key === figure ? old : undefined),
  })
  const bars = useQuery({
    queryKey: ['sensitivity', figure, id, stamp],
    queryFn: () => call<Bar[]>('sensitivity', { body: ask }),
    placeholderData: (old) => old,
  })
  const w = why.data
  if (why.error) return <p className="wrong">{why.error.message}</p>
  if (!w) return <p className="quiet">Asking why …</p>
  const info = meta!.figures[figure]
  const cornerTitle = sheet!.corners.find((c) => c.id === w.corner)?.title
  const pinnable = info && ['build', 'operation', 'published'].includes(info.kind)
  return (
    <section aria-label={`Why ${w.title}`} data-testid="why">
      <h2 className="cap">
        <span>
          Why {w.title.toLowerCase()}{' '}
          {w.text && (
            <>
              is <span className="num">{w.text}</span>
            </>
          )}
        </span>
        <button className="act" onClick={onClose} aria-label="Close why">
          close
        </button>
      </h2>
      {info?.kind !== 'given' && (
        <>
          <Tex tex={`${w.symbol || '?'} = ${w.formula}`} />
          <Tex tex={`= ${w.numbers} = ${texOf(w.text)}`} />
        </>
      )}
      <p style={{ margin: '2px 0 8px' }}>
        {w.sentence}{' '}
        {w.binds ? (
          <>
            Speaks for <b>{cornerTitle}</b>, which binds.
          </>
        ) : (
          <span className="quiet">At {cornerTitle}.</span>
        )}{' '}
        <span className="quiet">
          {w.source}
          {w.empirical ? ' (empirical)' : ''}
        </span>
      </p>
      {w.cause && <p className="wrong">{w.cause}</p>}
      {sheet!.figures[figure]?.warnings?.map((x) => (
        <p key={x} className="wrong">
          Note: {x}.
        </p>
      ))}
      {w.pinned && (
        <p className="pinned">
          Pinned{w.reason && `: “${w.reason}”`}
          {w.computed && ` · its own formula gives ${w.computed}`}{' '}
          <button
            className="act"
            onClick={() =>
              edit(`Unpinned ${w.title}`, (d) => ({
                ...d,
                pins: Object.fromEntries(Object.entries(d.pins).filter(([k]) => k !== figure)),
              }))
            }>
            Unpin
          </button>
        </p>
      )}
      <p className="noprint" style={{ display: 'flex', gap: 14, margin: '0 0 8px' }}>
        {pinnable && !w.pinned && (
          <button
            className="act"
            aria-expanded={mode === 'pin'}
            onClick={() => setMode(mode === 'pin' ? 'why' : 'pin')}>
            Pin it …
          </button>
        )}
        {w.movable.length > 0 && (
          <button
            className="act"
            aria-expanded={mode === 'seek'}
            onClick={() => setMode(mode === 'seek' ? 'why' : 'seek')}>
            Make it equal to …
          </button>
        )}
      </p>
      {mode === 'pin' && pinnable && !w.pinned && (
        <PinForm
          key={figure}
          figure={figure}
          title={w.title}
          value={w.value}
          unit={info.unit}
          done={() => setMode('why')}
        />
      )}
      {mode === 'seek' && w.movable.length > 0 && (
        <SeekForm
          key={`${figure}-seek`}
          why={w}
          unit={info?.unit ?? ''}
          corner={id}
          best={bars.data?.[0]?.key}
          done={() => setMode('why')}
        />
      )}
      <div className="two">
        <Near title="Comes from" rows={w.comes_from} select={select} />
        <Near title="Carries on to" rows={w.carries_on_to} select={select} />
      </div>
      {bars.data && bars.data.length > 0 && <Sensitivity bars={bars.data} select={select} />}
    </section>
  )
}

const texOf = (t: string) =>
  t ? `\\textsf{${t.replace(/%/g, '\\%').replace(/µ/g, 'µ').replace(/[²³⁴]/g, '')}}` : '\\text{?}'

function Near({ title, rows, select }: { title: string; rows: Why['comes_from']; select: (key: string) => void }) {
  return (
    <div>
      <b className="head">{title}</b>
      <ul className="near">
        {rows.slice(0, 9).map((n) => (
          <li key={n.key}>
            <button className={n.pinned ? 'act pinned' : 'act'} data-walk={n.key} onClick={() => select(n.key)}>
              {n.title}
            </button>
            <span className="num">{n.text}</span>
          </li>
        ))}
      </ul>
      {rows.length === 0 && (
        <span className="quiet">{title === 'Comes from' ? 'It is given.' : 'Nothing further.'}</span>
      )}
      {rows.length > 9 && <span className="quiet">and {rows.length - 9} more</span>}
    </div>
  )
}

function Sensitivity({ bars, select }: { bars: Bar[]; select: (key: string) => void }) {
  const most = Math.max(
    ...bars.flatMap((b) => [b.held_down, b.held_up, b.sized_down, b.sized_up].map((v) => Math.abs(v ?? 0))),
    1e-9,
  )
  const x = (v: number | null) => 50 + (48 * (v ?? 0)) / most
  return (
    <>
      <h3 style={{ fontSize: 14, margin: '12px 0 4px' }}>
        What moves it most, +10 %{' '}
        <span className="quiet" style={{ fontWeight: 400 }}>
          bar: build held · rhombus: re-sized
        </span>
      </h3>
      <div className="sens">
        {bars.slice(0, 6).map((b) => (
          <Row key={b.key}>
            <button className="act" style={{ fontWeight: 400, color: 'inherit' }} onClick={() => select(b.key)}>
              {b.title}
            </button>
            <svg viewBox="0 0 100 14" height="14" width="100%" preserveAspectRatio="none" aria-hidden="true">
              <line x1="50" x2="50" y1="0" y2="14" stroke="var(--slate)" />
              <rect
                x={Math.min(50, x(b.held_up))}
                y="4"
                width={Math.abs(x(b.held_up) - 50)}
                height="6"
                fill="var(--slate)"
              />
              <path d={`M${x(b.sized_up) - 2.4} 7l2.4 -4l2.4 4l-2.4 4Z`} fill="var(--copper)" />
            </svg>
            <span className="num">{percent(b.held_up)}</span>
            {b.jumped && (
              <small>
                re-sized {percent(b.sized_up)}: {b.jumped}
              </small>
            )}
          </Row>
        ))}
      </div>
    </>
  )
}

function Row({ children }: { children: React.ReactNode }) {
  return <>{children}</>
}

const percent = (v: number | null) => (v === null ? '–' : `${v > 0 ? '+' : ''}${(v * 100).toFixed(1)} %`)

function PinForm({
  figure,
  title,
  value,
  unit,
  done,
}: {
  figure: string
  title: string
  value: number | null
  unit: string
  done: () => void
}) {
  const { edit } = useWorkspace()
  const [wanted, setWanted] = useState(value)
  const [reason, setReason] = useState('')
  return (
    <form
      className="fields"
      style={{ margin: '0 0 12px' }}
      onSubmit={(e) => {
        e.preventDefault()
        if (wanted !== null)
          edit(`Pinned ${title}`, (d) => ({
            ...d,
            pins: { ...d.pins, [figure]: { value: wanted, part: null, quantity: 1, reason } },
          }))
        done()
      }}>
      <div className="row2">
        <Entry id="pin-value" label="Hold it at" value={wanted} unit={unit} onValue={setWanted} />
      </div>
      <label>
        Because
        <input
          id="pin-reason"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          placeholder="part at hand, measured on the bench …"
          maxLength={200}
        />
      </label>
      <Button type="submit" variant={'copper' as never} alignSelf="start">
        Pin
      </Button>
    </form>
  )
}

function SeekForm({
  why,
  unit,
  corner,
  best,
  done,
}: {
  why: Why
  unit: string
  corner: string
  best: string | undefined
  done: () => void
}) {
  const { design, edit, meta } = useWorkspace()
  const [wanted, setWanted] = useState('')
  const [move, setMove] = useState(best && why.movable.some((m) => m.key === best) ? best : why.movable[0]!.key)
  const [found, setFound] = useState<Sought | null>(null)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const places = new Map(meta!.places.map((p) => [p.name, p.title]))
  const moveUnit = meta!.figures[move]?.unit ?? ''
  const seek = () => {
    setBusy(true)
    setWrong('')
    call<Sought>('seek', { body: { design, key: why.key, corner, wanted, move } })
      .then(setFound)
      .catch((e: unknown) => {
        setFound(null)
        setWrong(e instanceof Error ? e.message : String(e))
      })
      .finally(() => setBusy(false))
  }
  const take = (v: number) => {
    edit(`${meta!.figures[move]?.title} to ${text(v, moveUnit, 4)}`, (d) => ({
      ...d,
      givens: { ...d.givens, [move]: Number(v.toPrecision(6)) },
    }))
    done()
  }
  return (
    <form
      className="fields"
      style={{ margin: '0 0 12px' }}
      onSubmit={(e) => {
        e.preventDefault()
        seek()
      }}>
      <label>
        Make {why.title.toLowerCase()} equal to
        <input
          id="seek-wanted"
          className="num"
          value={wanted}
          onChange={(e) => setWanted(e.target.value)}
          placeholder={why.text}
        />
      </label>
      <label>
        by moving
        <select
          id="seek-move"
          value={move}
          onChange={(e) => {
            setMove(e.target.value)
            setFound(null)
          }}>
          {why.movable.map((m) => (
            <option key={m.key} value={m.key}>
              {m.title} · {places.get(m.place)}
            </option>
          ))}
        </select>
      </label>
      <Button type="submit" variant={'copper' as never} disabled={!wanted.trim() || busy}>
        {busy ? 'Seeking …' : 'Seek'}
      </Button>
      {wrong && (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      )}
      {found &&
        (found.exact ? (
          <p data-testid="sought">
            {text(found.value, moveUnit, 4)} does it.{' '}
            <button type="button" className="act" onClick={() => take(found.value)}>
              Take it
            </button>
          </p>
        ) : found.below && found.above ? (
          <p data-testid="sought">
            It jumps there.{' '}
            {[found.below, found.above].map(([v, r]) => (
              <button type="button" key={v} className="act" onClick={() => take(v)}>
                {text(v, moveUnit, 5)} gives {text(r, unit, 4)}
              </button>
            ))}
          </p>
        ) : (
          <p data-testid="sought">
            It cannot be reached within the allowed range. Nearest: {text(found.reaches, unit, 4)} at{' '}
            {text(found.value, moveUnit, 4)}.{' '}
            <button type="button" className="act" onClick={() => take(found.value)}>
              Take it
            </button>
          </p>
        ))}
    </form>
  )
}

export function PickPanel({ pickKey, onClose }: { pickKey: string; onClose: () => void }) {
  const { meta, sheet, edit } = useWorkspace()
  const pick = sheet!.picks[pickKey]!
  const info = meta!.picks[pickKey]!
  const pin = (part: string, quantity: number) =>
    edit(`Pinned ${info.title.toLowerCase()} to ${quantity} × ${part}`, (d) => ({
      ...d,
      pins: { ...d.pins, [pickKey]: { value: null, part, quantity, reason: 'chosen by hand' } },
    }))
  return (
    <section aria-label={`Why ${info.title}`} data-testid="why">
      <h2 className="cap">
        <span>
          {info.title}:{' '}
          <span className="num">
            {pick.quantity} × {pick.part}
          </span>
        </span>
        <button className="act" onClick={onClose}>
          close
        </button>
      </h2>
      <p>
        {info.sentence} {String(pick.record.description)}. {pick.fits ? 'Tightest' : 'It does not fit'}:{' '}
        {pick.tightest.need}
        {pick.tightest.margin !== null && `, ${pick.tightest.margin.toPrecision(3)} × what is needed`}.
      </p>
      {pick.pinned && (
        <p className="pinned">
          Pinned.{' '}
          <button
            className="act"
            onClick={() =>
              edit(`Unpinned ${info.title}`, (d) => ({
                ...d,
                pins: Object.fromEntries(Object.entries(d.pins).filter(([k]) => k !== pickKey)),
              }))
            }>
            Unpin
          </button>
        </p>
      )}
      <h3 style={{ fontSize: 14, margin: '8px 0 2px' }}>Runners-up</h3>
      <table className="table">
        <tbody>
          {pick.runners_up.map((r) => (
            <tr key={`${r.part}${r.quantity}`}>
              <td className="num">
                {r.quantity} × {r.part}
              </td>
              <td className="quiet">
                {r.fits ? r.because : `${r.because}: ${text(r.capability, r.unit)} of ${text(r.demand, r.unit)}`}
              </td>
              <td>
                <button className="act" onClick={() => pin(r.part, r.quantity)}>
                  Pin
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
