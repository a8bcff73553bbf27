/** What two designs say differently, in words: one line each, "here" first. */
import type { Design, LineUp, PinnedValue } from '../api'
import { text } from '../number'
import { counted, placeTitle, titleOf } from './figures'

type Words = string | undefined
const words = (id: string) => id.replace(/_/g, ' ')

export function differences(here: Design, there: Design, meta: LineUp | undefined): string[] {
  const rows: string[] = []
  const compare = (what: string, a: Words, b: Words) => {
    if (a !== b) rows.push(`${what}: ${a ?? 'not set'} here, ${b ?? 'not set'} there`)
  }
  const name = (key: string) => {
    const [place, figure] = key.split('.') as [string, string]
    const where = placeTitle(meta, here.loads.some((l) => l.place === place) ? here : there, place)
    const title = meta?.choices[key]?.title ?? titleOf(meta, key)
    return `${where}, ${title === key ? words(figure) : title.toLowerCase()}`
  }
  const quantity = (key: string, value: number | null) => text(value, meta?.figures[key]?.unit ?? '', 9)
  const pin = (key: string, p: PinnedValue | undefined): Words =>
    p && `pinned to ${p.part ? counted({ part: p.part, quantity: p.quantity }) : quantity(key, p.value)}`

  compare('title', here.title, there.title)
  compare('line-up', words(here.lineup), words(there.lineup))
  for (const place of union(loadNames(here), loadNames(there)))
    compare(`load ${place.replace('load_', '')}`, loadNames(here)[place], loadNames(there)[place])
  for (const key of union(here.givens, there.givens))
    compare(name(key), given(quantity, key, here), given(quantity, key, there))
  for (const key of union(here.choices, there.choices)) {
    const option = (d: Design): Words => meta?.choices[key]?.options[d.choices[key] ?? ''] ?? d.choices[key]
    compare(name(key), option(here), option(there))
  }
  for (const key of union(here.pins, there.pins))
    compare(name(key), pin(key, here.pins[key]), pin(key, there.pins[key]))
  return rows
}

const loadNames = (d: Design): Record<string, string> => Object.fromEntries(d.loads.map((l) => [l.place, l.title]))

const union = (a: object, b: object): string[] => [...new Set([...Object.keys(a), ...Object.keys(b)])]

function given(quantity: (key: string, value: number) => string, key: string, d: Design): Words {
  const value = d.givens[key]
  return value === undefined ? undefined : quantity(key, value)
}
