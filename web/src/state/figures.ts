/** Reading values, verdicts and names out of a sheet. */
import type { CheckValue, Design, FigureValue, LineUp, PlaceMeta, Sheet, Verdict } from '../api'
import { text } from '../number'

export const at = (figure: FigureValue | undefined, corner: number): number | null =>
  figure ? ((figure.values.length === 1 ? figure.values[0] : figure.values[corner]) ?? null) : null

const ORDER: Verdict[] = ['fails', 'unknown', 'tight', 'holds']
export const worse = (a: Verdict, b: Verdict): Verdict => (ORDER.indexOf(a) <= ORDER.indexOf(b) ? a : b)

export function verdictAt(check: CheckValue, corner: number): Verdict {
  return check.verdicts[corner] ?? check.verdict
}

/** A check's margin at a corner; null where there is no demand, or where it is unknown. */
export const marginAt = (check: CheckValue, corner: number): number | null =>
  (check.margin.length === 1 ? check.margin[0] : check.margin[corner]) ?? null

/** The check with the least room at a corner, measured by what each needs to hold. */
export function tightest(checks: CheckValue[], corner: number): CheckValue {
  const room = (c: CheckValue) => (marginAt(c, corner) ?? Infinity) / (c.hold ?? 1)
  return checks.reduce((a, b) => (room(a) <= room(b) ? a : b))
}

/** The place of the path, or hung on it, whose checks stand worst; among equals the one with the least room. */
export function tightestPlace(meta: LineUp, sheet: Sheet): string {
  const first = meta.places.find((p) => p.host === null)?.name ?? ''
  const rows = Object.entries(meta.checks).flatMap(([key, { place }]) => {
    const check = sheet.checks[key]
    return check ? [{ place, verdict: ORDER.indexOf(check.verdict), room: roomOf(check) }] : []
  })
  return rows.sort((a, b) => a.verdict - b.verdict || a.room - b.room)[0]?.place ?? first
}

/** The least margin of a check over what it needs to hold. */
const roomOf = (check: CheckValue): number => Math.min(...check.margin.map((m) => m ?? Infinity)) / (check.hold ?? 1)

/** The figures of a place that are worked out, in the order of its sheet. */
export const worked = (meta: LineUp, place: string): string[] =>
  Object.entries(meta.figures)
    .filter(([, f]) => f.place === place && ['build', 'operation', 'renamed'].includes(f.kind))
    .map(([key]) => key)

/** The worst verdict of a place (with its loads and attachments apart), at a corner or over all. */
export function placeVerdict(meta: LineUp, sheet: Sheet, place: string, corner?: number): Verdict {
  let worst: Verdict = 'holds'
  for (const [key, check] of Object.entries(meta.checks)) {
    const value = sheet.checks[key]
    if (check.place === place && value)
      worst = worse(worst, corner === undefined ? value.verdict : verdictAt(value, corner))
  }
  for (const [key, pick] of Object.entries(meta.picks))
    if (pick.place === place && sheet.picks[key] && !sheet.picks[key].fits) worst = worse(worst, 'tight')
  return worst
}

export function cornerVerdict(sheet: Sheet, corner: number): Verdict {
  return Object.values(sheet.checks).reduce<Verdict>((worst, check) => worse(worst, verdictAt(check, corner)), 'holds')
}

/** What a figure or a pick is called. */
export const titleOf = (meta: LineUp | undefined, key: string): string =>
  meta?.figures[key]?.title ?? meta?.picks[key]?.title ?? key

/** What a place is called: a load as the brief names it, a stage by its own title. */
export const placeTitle = (meta: LineUp | undefined, loads: Design['loads'], place: string): string =>
  loads.find((l) => l.place === place)?.title ?? meta?.places.find((p) => p.name === place)?.title ?? place

/** A part with its number, where there is more than one. */
export const counted = ({ part, quantity }: { part: string; quantity: number }): string =>
  quantity > 1 ? `${quantity} × ${part}` : part

/** The telling words below a stage's name: its template with parts, choices and figures put in. */
export function telling(
  meta: LineUp,
  sheet: Sheet,
  choices: Design['choices'],
  place: PlaceMeta,
  corner: number,
): string {
  const word = (key: string): string => {
    const pick = sheet.picks[key]
    if (pick) return pick.quantity > 1 ? `${pick.quantity}×${pick.part}` : pick.part
    const choice = meta.choices[key]
    if (choice) return choice.options[choices[key] ?? choice.default] ?? ''
    return text(at(sheet.figures[key], corner), meta.figures[key]?.unit ?? '', 3)
  }
  return place.telling.replace(/\{([\w.]+)\}/g, (_, key: string) => word(key))
}

const judges = new WeakMap<LineUp, Map<string, string[]>>()

/** Checks whose demand or capability is this figure. */
export function checksOf(meta: LineUp, key: string): string[] {
  let found = judges.get(meta)
  if (!found) {
    found = new Map()
    for (const [check, { demand, capability }] of Object.entries(meta.checks))
      for (const figure of new Set([demand, capability])) found.set(figure, [...(found.get(figure) ?? []), check])
    judges.set(meta, found)
  }
  return found.get(key) ?? []
}

/** The checks of a place. */
export const checksAt = (meta: LineUp, place: string): string[] =>
  Object.keys(meta.checks).filter((key) => meta.checks[key]!.place === place)

/** Those of the checks that the sheet has, the worst first, else in their own order. */
export const worstFirst = (sheet: Sheet, keys: string[]): string[] => {
  const rank = (key: string) => ORDER.indexOf(sheet.checks[key]!.verdict)
  return keys.filter((key) => sheet.checks[key]).sort((a, b) => rank(a) - rank(b))
}
