/** The worked figures of a stage, a row each: verdict, value at the corner, range over the corners, margin. */
import { useState } from 'react'
import type { CheckValue, FigureMeta, FigureValue, PlaceMeta, Verdict } from '../../api'
import { range, text } from '../../number'
import { at, checksOf, counted, marginAt, tightest, verdictAt, worked, worse } from '../../state/figures'
import { useWorkspace } from '../../state/workspace'
import { Mark, TONE } from '../../ui/Mark'
import { Num, Symbol } from '../../ui/Number'

type Filter = 'all' | 'tight' | 'pinned'
interface Props {
  place: PlaceMeta
  open: string | null
  select: (key: string) => void
}

export function Ledger({ place, open, select }: Props) {
  const { meta, sheet } = useWorkspace()
  const [filter, setFilter] = useState<Filter>('all')
  const rows = worked(meta!, place.name).filter((key) => sheet!.figures[key])
  const picks = Object.keys(meta!.picks).filter((key) => meta!.picks[key]!.place === place.name)
  const checks = (key: string) =>
    checksOf(meta!, key)
      .map((c) => sheet!.checks[c])
      .filter((c): c is CheckValue => !!c)
  const pinned = rows.filter((key) => sheet!.figures[key]!.pinned)
  const tight = rows.filter((key) => checks(key).some((c) => c.verdict !== 'holds'))
  const shown = { all: rows, tight, pinned }[filter]
  const filters: [Filter, string][] = [
    ['all', `all ${rows.length + picks.length}`],
    ['tight', `tight or failing ${tight.length}`],
    ['pinned', `pinned ${pinned.length}`],
  ]
  const row = (key: string) => ({
    'data-figure': key,
    className: open === key ? 'open' : '',
    onClick: () => select(key),
  })
  return (
    <>
      <h2 className="cap">
        {place.title}, worked figures
        <span className="filter">
          {filters.map(([f, name]) => (
            <button key={f} aria-pressed={filter === f} onClick={() => setFilter(f)}>
              {name}
            </button>
          ))}
        </span>
      </h2>
      <table className="ledger">
        <tbody>
          {filter === 'all' &&
            picks.map((key) => (
              <tr key={key} {...row(key)}>
                <PickCells of={key} />
              </tr>
            ))}
          {shown.map((key) => (
            <tr key={key} {...row(key)}>
              <FigureCells of={key} checks={checks(key)} open={open === key} />
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length === 0 && (
        <p className="quiet">
          {filter === 'pinned' ? 'Nothing is pinned here. Open a figure and press p.' : 'All of it holds.'}
        </p>
      )}
    </>
  )
}

function PickCells({ of }: { of: string }) {
  const { meta, sheet } = useWorkspace()
  const pick = sheet!.picks[of]!
  return (
    <>
      <td className="mark">
        <Mark verdict={pick.fits ? 'holds' : 'tight'} />
      </td>
      <td className="name">
        <button>{meta!.picks[of]!.title}</button>
      </td>
      <td />
      <td className={pick.pinned ? 'v pinned' : 'v'} colSpan={3}>
        <span className="num">{counted(pick)}</span>
        {!pick.fits && <span className="unit">nearest: none fits</span>}
      </td>
    </>
  )
}

function FigureCells({ of, checks, open }: { of: string; checks: CheckValue[]; open: boolean }) {
  const { meta, sheet, corner, former } = useWorkspace()
  const f = meta!.figures[of]!
  const figure = sheet!.figures[of]!
  const verdict = checks.map((c) => verdictAt(c, corner)).reduce<Verdict | null>((a, b) => (a ? worse(a, b) : b), null)
  const before = former[of]
  return (
    <>
      <td className="mark">{verdict && <Mark verdict={verdict} />}</td>
      <td className="name">
        <button aria-expanded={open}>{f.title}</button>
      </td>
      <td>
        <Symbol tex={f.symbol} />
      </td>
      <td className="v">
        {before !== undefined && before !== null && <span className="former">{text(before, f.unit, 3)}</span>}
        <Value figure={figure} unit={f.unit} />
      </td>
      <td className="range">{beside(f, figure)}</td>
      <td className="bar">{checks[0] && <Margin check={tightest(checks, corner)} corner={corner} />}</td>
    </>
  )
}

function Value({ figure, unit }: { figure: FigureValue; unit: string }) {
  const { sheet, corner } = useWorkspace()
  const id = sheet!.corners[corner]!.id
  const cause = figure.unknown?.[id] ?? figure.unknown?.all
  const absent = figure.does_not_apply?.[id]
  if (cause || absent)
    return (
      <span className="quiet" title={cause ?? absent}>
        {cause ? 'unknown' : 'does not apply'}
      </span>
    )
  return <Num value={at(figure, corner)} unit={unit} pinned={figure.pinned} />
}

/** What stands beside a value: what a pinned figure's own formula gives, or its range where the corners differ. */
export function beside(f: FigureMeta, figure: FigureValue): string {
  if (figure.pinned && figure.computed) return `computed ${text(figure.computed[0], f.unit, 3)}`
  const known = figure.values.filter((v): v is number => v !== null)
  if (known.length < 2) return ''
  const [low, high] = [Math.min(...known), Math.max(...known)]
  return high - low > 1e-6 * Math.abs(high) ? range(low, high, f.unit) : ''
}

/** Margin over fail, capped at two; a tick at one, a lighter one where it holds. An unknown margin has no bar. */
export function Margin({ check, corner }: { check: CheckValue; corner: number }) {
  const verdict = verdictAt(check, corner)
  const margin = marginAt(check, corner)
  const fail = check.fail ?? 1
  const share = verdict === 'unknown' ? 0 : Math.min((margin ?? Infinity) / fail, 2)
  const hold = check.hold === null ? null : (50 * check.hold) / fail
  const label = verdict === 'unknown' ? 'unknown' : margin === null ? 'no demand' : `margin ${margin.toPrecision(3)}`
  return (
    <svg width="100" height="14" viewBox="0 0 100 14" role="img" aria-label={label}>
      <rect x="0" y="5" width="100" height="5" fill="var(--track)" />
      <rect x="0" y="5" width={50 * share} height="5" fill={TONE[verdict]} />
      <line x1="50" x2="50" y1="1" y2="14" stroke="var(--ink)" strokeWidth="1.6" />
      {hold !== null && hold < 100 && <line x1={hold} x2={hold} y1="3" y2="12" stroke="var(--slate)" />}
    </svg>
  )
}
