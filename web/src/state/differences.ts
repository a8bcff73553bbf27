/** What two designs say differently, in words: one line each, "here" first. */
import type { Design, LineUp, PinnedValue } from '../api'
import { text } from '../number'
import type { Field } from './draft/merge'
import { counted, placeTitle, titleOf } from './figures'

const words = (id: string) => id.replace(/_/g, ' ')

/** A field of a design in words. */
export function fieldTitle(field: Field, design: Design, meta: LineUp | undefined): string {
  const [table, ...rest] = field.split('.') as [string, ...string[]]
  if (table === 'title') return 'title'
  if (table === 'lineup') return 'line-up'
  if (table === 'loads') return `load ${rest[0]!.replace('load_', '')}`
  const key = rest.join('.')
  const title = meta?.choices[key]?.title ?? titleOf(meta, key)
  return `${placeTitle(meta, design.loads, rest[0]!)}, ${title === key ? words(rest[1] ?? '') : title.toLowerCase()}`
}

/** What the fields stand at on either side. */
export function differences(fields: Field[], here: Design, there: Design, meta: LineUp | undefined): string[] {
  return fields.map((field) => {
    const known = valueOf(field, here, meta) === undefined ? there : here
    const [a, b] = [here, there].map((side) => valueOf(field, side, meta) ?? 'not set')
    return `${fieldTitle(field, known, meta)}: ${a} here, ${b} there`
  })
}

function valueOf(field: Field, design: Design, meta: LineUp | undefined): string | undefined {
  const [table, ...rest] = field.split('.') as [string, ...string[]]
  const key = rest.join('.')
  const quantity = (value: number | null) => text(value, meta?.figures[key]?.unit ?? '', 9)
  switch (table) {
    case 'title':
      return design.title
    case 'lineup':
      return words(design.lineup)
    case 'loads':
      return design.loads.find((l) => l.place === rest[0])?.title
    case 'givens':
      return design.givens[key] === undefined ? undefined : quantity(design.givens[key])
    case 'choices':
      return meta?.choices[key]?.options[design.choices[key] ?? ''] ?? design.choices[key]
    default:
      return pinOf(design.pins[key], quantity)
  }
}

function pinOf(pin: PinnedValue | undefined, quantity: (value: number | null) => string): string | undefined {
  return pin && `pinned to ${pin.part ? counted({ part: pin.part, quantity: pin.quantity }) : quantity(pin.value)}`
}
