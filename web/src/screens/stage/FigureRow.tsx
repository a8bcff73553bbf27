/** One worked figure as a row of the ledger; it is drawn anew only when its own numbers or verdicts changed. */
import { memo, useMemo } from 'react'
import type { CheckValue, FigureValue, PlacedFigure, Verdict } from '../../api'
import { range, text } from '../../number'
import { at, checksOf, marginAt, tightest, verdictAt, worse } from '../../state/figures'
import { useSelected, type Solved } from '../../state/sheet'
import { shallowly } from '../../state/store'
import { Mark, TONE } from '../../ui/Mark'
import { numbered, Symbol } from '../../ui/Number'

interface Props {
  of: string
  open: boolean
  select: (key: string) => void
}

export const FigureRow = memo(function FigureRow({ of, open, select }: Props) {
  const figure = useSelected((s) => s.sheet.figures[of])
  const f = useSelected((s) => s.meta.figures[of])
  const corner = useSelected((s) => s.corner)
  const corners = useSelected((s) => s.sheet.corners)
  const before = useSelected((s) => s.former[of])
  const judged = useMemo(
    () => shallowly((s: Solved) => checksOf(s.meta, of).flatMap((key) => s.sheet.checks[key] ?? [])),
    [of],
  )
  const checks = useSelected(judged)
  if (!figure || !f) return null
  const verdict = checks.map((c) => verdictAt(c, corner)).reduce<Verdict | null>((a, b) => (a ? worse(a, b) : b), null)
  return (
    <tr data-figure={of} className={open ? 'open' : ''} onClick={() => select(of)}>
      <td className="mark">{verdict && <Mark verdict={verdict} />}</td>
      <td className="name" title={f.title}>
        <button aria-expanded={open}>{f.title}</button>
      </td>
      <td className="sy">
        <Symbol tex={f.symbol} />
      </td>
      <td className="v">
        {before !== undefined && before !== null && <span className="former">{text(before, f.unit, 3)}</span>}
        {valueOf(figure, f.unit, corner, corners[corner]?.id ?? '')}
      </td>
      <td className="range">{beside(f, figure)}</td>
      <td className="bar">{checks[0] && margin(tightest(checks, corner), corner)}</td>
    </tr>
  )
})

function valueOf(figure: FigureValue, unit: string, corner: number, id: string) {
  const value = at(figure, corner)
  const cause = figure.unknown?.[id] ?? figure.unknown?.all
  const absent = figure.does_not_apply?.[id] ?? figure.does_not_apply?.all
  if (value === null)
    return (
      <span className="quiet" title={cause ?? absent}>
        {absent && !cause ? 'does not apply' : 'unknown'}
      </span>
    )
  return numbered(value, unit, 3, figure.pinned)
}

/** What stands beside a value: what a pinned figure's own formula gives, or its range where the corners differ. */
export function beside(f: Pick<PlacedFigure, 'unit'>, figure: FigureValue): string {
  if (figure.pinned && figure.computed) return `computed ${text(figure.computed[0], f.unit, 3)}`
  const known = figure.values.filter((v): v is number => v !== null)
  if (known.length < 2) return ''
  const [low, high] = [Math.min(...known), Math.max(...known)]
  return high - low > 1e-6 * Math.abs(high) ? range(low, high, f.unit) : ''
}

/** Margin over fail, capped at two; a tick at one, a lighter one where it holds. An unknown margin has no bar. */
export function margin(check: CheckValue, corner: number) {
  const verdict = verdictAt(check, corner)
  const reached = marginAt(check, corner)
  const fail = check.fail ?? 1
  const share = verdict === 'unknown' ? 0 : Math.min((reached ?? Infinity) / fail, 2)
  const hold = check.hold === null ? null : (50 * check.hold) / fail
  const label = verdict === 'unknown' ? 'unknown' : reached === null ? 'no demand' : `margin ${reached.toPrecision(3)}`
  return (
    <svg width="100" height="14" viewBox="0 0 100 14" preserveAspectRatio="none" role="img" aria-label={label}>
      <rect x="0" y="5" width="100" height="5" fill="var(--track)" />
      <rect x="0" y="5" width={50 * share} height="5" fill={TONE[verdict]} />
      <line x1="50" x2="50" y1="1" y2="14" stroke="var(--ink)" strokeWidth="1.6" />
      {hold !== null && hold < 100 && <line x1={hold} x2={hold} y1="3" y2="12" stroke="var(--slate)" />}
    </svg>
  )
}
