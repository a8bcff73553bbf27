/** The worked figures of a stage in groups: verdict, value at the corner, range over the corners, margin. */
import { memo, useEffect, useRef, useState } from 'react'
import type { LineUp, PlaceMeta, Sheet } from '../../api'
import { checksOf, counted, worked } from '../../state/figures'
import { lettersOn, meantForPage } from '../../state/keys'
import { useSelected, useSheet } from '../../state/sheet'
import { Mark } from '../../ui/Mark'
import { actOf } from '../../ui/keyTable'
import { FigureRow } from './FigureRow'
import { walk } from '../../ui/arrows'

type Filter = 'all' | 'tight' | 'pinned'
interface Props {
  place: PlaceMeta
  open: string | null
  select: (key: string) => void
}

export const Ledger = memo(function Ledger({ place, open, select }: Props) {
  const { meta, sheet } = useSheet()
  const [filter, setFilter] = useState<Filter>('all')
  const [words, setWords] = useState('')
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set())
  const rows = worked(meta, place.name).filter((key) => sheet.figures[key])
  const picks = Object.keys(meta.picks).filter((key) => meta.picks[key]!.place === place.name && sheet.picks[key])
  const all = [...picks, ...rows]
  const pinned = all.filter((key) => (sheet.picks[key] ?? sheet.figures[key])!.pinned)
  const tight = all.filter((key) => isTight(meta, sheet, key))
  const among = { all, tight, pinned }[filter]
  const shown = among.filter((key) => says(meta, sheet, key, words))
  const parts = picks.filter((key) => shown.includes(key))
  const groups = grouped(
    meta,
    place,
    rows.filter((key) => shown.includes(key)),
  )
  const filters: [Filter, string][] = [
    ['all', `all ${all.length}`],
    ['tight', `tight or failing ${tight.length}`],
    ['pinned', `pinned ${pinned.length}`],
  ]
  const fold = (group: string) =>
    setFolded((f) => new Set(f.has(group) ? [...f].filter((g) => g !== group) : [...f, group]))
  const whole = filter === 'all' && words === ''
  return (
    <>
      <h2 className="cap">
        {place.title}, worked figures
        <span className="filter">
          {rows.length > FEW && <Find words={words} setWords={setWords} />}
          {filters.map(([f, name]) => (
            <button key={f} aria-pressed={filter === f} onClick={() => setFilter(f)}>
              {name}
            </button>
          ))}
        </span>
      </h2>
      <div
        className={rows.length > MANY ? 'ledgers dense' : 'ledgers'}
        onKeyDown={(e) => walk(e, 'th button, .name button')}>
        {parts.length > 0 && (
          <table className="ledger">
            <tbody>
              {parts.map((key) => (
                <PickRow key={key} of={key} open={open === key} select={select} />
              ))}
            </tbody>
          </table>
        )}
        {groups.map(([group, keys]) => (
          <table className="ledger" key={group} aria-label={group}>
            {groups.length > 1 && (
              <thead>
                <tr>
                  <th colSpan={6}>
                    <button aria-expanded={!folded.has(group)} onClick={() => fold(group)}>
                      {group} <span className="quiet">{keys.length}</span>
                    </button>
                  </th>
                </tr>
              </thead>
            )}
            {(!folded.has(group) || !whole) && (
              <tbody>
                {keys.map((key) => (
                  <FigureRow key={key} of={key} open={open === key} select={select} />
                ))}
              </tbody>
            )}
          </table>
        ))}
      </div>
      {shown.length === 0 && <p className="quiet">{nothing(filter, words)}</p>}
    </>
  )
})

/** Fewer figures than this need no search; more than that many stand in two columns, so that they are seen at once. */
const [FEW, MANY] = [12, 26]

function nothing(filter: Filter, words: string): string {
  if (words) return `No figure here is called “${words}”.`
  return filter === 'pinned' ? 'Nothing is pinned here. Open a figure and press p.' : 'All of it holds.'
}

const isTight = (meta: LineUp, sheet: Sheet, key: string) =>
  sheet.picks[key]?.fits === false ||
  checksOf(meta, key).some((c) => sheet.checks[c] && sheet.checks[c].verdict !== 'holds')

/** Whether name, symbol or unit of a figure, or name and part of a pick, hold every word. */
function says(meta: LineUp, sheet: Sheet, key: string, words: string): boolean {
  const f = meta.figures[key]
  const text = (
    f
      ? `${f.title} ${f.symbol.replace(/[\\{}_]|mathrm/g, '')} ${f.shown_unit}`
      : `${meta.picks[key]!.title} ${counted(sheet.picks[key]!)}`
  ).toLowerCase()
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}

/** The figures under the headings of their stage, in its order; what another place hands on leads. */
function grouped(meta: LineUp, place: PlaceMeta, keys: string[]): [string, string[]][] {
  const order = meta.groups[place.stage] ?? []
  const of = (key: string) => (meta.figures[key]!.kind === 'renamed' ? order[0]! : meta.figures[key]!.group)
  return order
    .map((group): [string, string[]] => [group, keys.filter((key) => of(key) === group)])
    .filter(([, found]) => found.length > 0)
}

interface FindProps {
  words: string
  setWords: (words: string) => void
}

const Find = memo(function Find({ words, setWords }: FindProps) {
  const field = useRef<HTMLInputElement>(null)
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!meantForPage(e) || !lettersOn() || actOf(e.key) !== 'find') return
      e.preventDefault()
      field.current?.focus()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [])
  return (
    <input
      ref={field}
      className="find"
      type="search"
      value={words}
      onChange={(e) => setWords(e.target.value)}
      onKeyDown={(e) => {
        if (e.key !== 'Escape') return
        setWords('')
        e.currentTarget.blur()
      }}
      placeholder="name, symbol or unit"
      aria-label="Find a figure of this stage"
    />
  )
})

interface RowProps {
  of: string
  open: boolean
  select: (key: string) => void
}

const PickRow = memo(function PickRow({ of, open, select }: RowProps) {
  const pick = useSelected((s) => s.sheet.picks[of])
  const title = useSelected((s) => s.meta.picks[of]?.title)
  if (!pick) return null
  return (
    <tr data-figure={of} className={open ? 'open' : ''} onClick={() => select(of)}>
      <td className="mark">
        <Mark verdict={pick.fits ? 'holds' : 'tight'} />
      </td>
      <td className="name">
        <button>{title}</button>
      </td>
      <td className="sy" />
      <td className={pick.pinned ? 'v pinned' : 'v'} colSpan={3}>
        <span className="num">{counted(pick)}</span>
        {!pick.fits && <span className="unit">nearest: none fits</span>}
      </td>
    </tr>
  )
})
