/** Two designs that grew out of one, brought together field by field. */
import type { Design } from '../../api'

/** A field of a design: `title`, `lineup`, `loads.load_1`, `givens.input.cable_length`, `choices.…`, `pins.…`. */
export type Field = string

const TABLES = ['givens', 'choices', 'pins'] as const

export interface Merged {
  /** With what is here where both sides changed the same field, */
  here: Design
  /** and with what is there. */
  there: Design
  /** Fields that both sides changed, to different values. */
  both: Field[]
  /** Fields that only the other side changed. */
  cameIn: Field[]
}

/** Without `base` nobody knows who changed what: every difference is of both sides. */
export function merge(base: Design | null, here: Design, there: Design): Merged {
  const [was, mine, theirs] = [base && fields(base), fields(here), fields(there)]
  const names = [...new Set([...mine.keys(), ...theirs.keys(), ...(was?.keys() ?? [])])]
  const both: Field[] = []
  const cameIn: Field[] = []
  const keepHere = new Map<Field, unknown>()
  const keepThere = new Map<Field, unknown>()
  for (const name of names) {
    const [a, b, before] = [mine, theirs, was].map((side) => text(side?.get(name)))
    const [own, other] = [mine.get(name), theirs.get(name)]
    if (a === b) put(keepHere, keepThere, name, own, own)
    else if (was && a === before) {
      cameIn.push(name)
      put(keepHere, keepThere, name, other, other)
    } else if (was && b === before) put(keepHere, keepThere, name, own, own)
    else {
      both.push(name)
      put(keepHere, keepThere, name, own, other)
    }
  }
  return { here: made(here, there, keepHere), there: made(there, here, keepThere), both, cameIn }
}

/** Whether two designs say the same, in whatever order their keys came. */
export const same = (a: Design, b: Design): boolean => text(a) === text(b)

function fields(design: Design): Map<Field, unknown> {
  const found = new Map<Field, unknown>([
    ['title', design.title],
    ['lineup', design.lineup],
  ])
  for (const load of design.loads) found.set(`loads.${load.place}`, load)
  for (const table of TABLES)
    for (const [key, value] of Object.entries(design[table])) found.set(`${table}.${key}`, value)
  return found
}

function put(here: Map<Field, unknown>, there: Map<Field, unknown>, name: Field, own: unknown, other: unknown): void {
  if (own !== undefined) here.set(name, own)
  if (other !== undefined) there.set(name, other)
}

/** A design from its fields; loads stand in the order of `first`, then those that only `second` has. */
function made(first: Design, second: Design, from: Map<Field, unknown>): Design {
  const places = [...new Set([...first.loads, ...second.loads].map((l) => l.place))]
  const loads = places.map((p) => from.get(`loads.${p}`)).filter((l) => l !== undefined) as Design['loads']
  // What was said of a load that one side took out goes with it.
  const gone = places.filter((p) => !from.has(`loads.${p}`))
  const stays = (key: string) => !gone.some((p) => key.startsWith(`${p}.`))
  const table = (name: string) =>
    Object.fromEntries(
      [...from]
        .filter(([field]) => field.startsWith(`${name}.`))
        .map(([field, value]) => [field.slice(name.length + 1), value] as const)
        .filter(([key]) => stays(key)),
    )
  return {
    ...first,
    title: from.get('title') as string,
    lineup: from.get('lineup') as string,
    loads,
    ...(Object.fromEntries(TABLES.map((t) => [t, table(t)])) as Pick<Design, (typeof TABLES)[number]>),
  }
}

function text(value: unknown): string {
  return (
    JSON.stringify(value, (_, v: unknown) =>
      v && typeof v === 'object' && !Array.isArray(v)
        ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
        : v,
    ) ?? ''
  )
}
