/** Reading values, verdicts and names out of a sheet. */
import type { CheckValue, Design, FigureValue, LineUpMeta, PlaceMeta, Sheet, Verdict } from '../api'
import { text } from '../number'

export const at = (figure: FigureValue | undefined, corner: number): number | null =>
  figure ? ((figure.values.length === 1 ? figure.values[0] : figure.values[corner]) ?? null) : null

const ORDER: Verdict[] = ['fails', 'unknown', 'tight', 'holds']
export const worse = (a: Verdict, b: Verdict): Verdict => (ORDER.indexOf(a) <= ORDER.indexOf(b) ? a : b)

export function verdictAt(check: CheckValue, corner: number): Verdict {
  return check.verdicts[corner] ?? check.verdict
}

/** The worst verdict of a place (with its loads and attachments apart), at a corner or over all. */
export function placeVerdict(meta: LineUpMeta, sheet: Sheet, place: string, corner?: number): Verdict {
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

/** The one telling value below a stage's name. */
export function telling(meta: LineUpMeta, sheet: Sheet, design: Design, place: PlaceMeta, corner: number): string {
  const words = place.telling.map((name) => {
    const key = `${place.name}.${name}`
    const pick = sheet.picks[key]
    if (pick) return pick.quantity > 1 ? `${pick.quantity}×${pick.part}` : pick.part
    const choice = meta.choices[key]
    if (choice) return choice.options[design.choices[key] ?? choice.default] ?? ''
    const figure = Object.entries(meta.figures).find(
      ([k, f]) => k === key || (f.name === name && k.startsWith(place.name)),
    )
    const found = figure?.[0] ?? Object.keys(meta.figures).find((k) => k.endsWith(`.${name}`))
    return found ? text(at(sheet.figures[found], corner), meta.figures[found]?.unit ?? '', 3) : ''
  })
  if (place.stage === 'transformer') return words.join(' : ')
  if (place.stage === 'battery')
    return words
      .reverse()
      .join(' · ')
      .replace(/(.*) · (.*)/, '$2 × $1')
  return words.filter(Boolean).join(' · ')
}

/** Checks whose demand or capability is this figure. */
export function checksOf(meta: LineUpMeta, key: string): string[] {
  return Object.entries(meta.checks)
    .filter(([, c]) => c.demand === key || c.capability === key)
    .map(([k]) => k)
}
