/** A line-up and its sheet as screens read them, put together from what the server sends apart: stages, places, columns. */
import type * as Schema from './schema'

export type PlacedFigure = Omit<Schema.FigureMeta, 'kind'> & {
  place: string
  kind: Schema.FigureMeta['kind'] | 'renamed'
}
export type PlacedChoice = Schema.ChoiceMeta & { place: string; name: string }
export type PlacedCheck = Schema.CheckMeta & { place: string; demand: string; capability: string }
export type PlacedPick = Schema.PickMeta & { place: string; published: string[] }
export type Joint = Schema.Joint
export type Picture = Schema.Plot | Schema.Bars | Schema.Winding | Schema.Scenes | Schema.Table

/** A line-up: everything by `place.name`. `order` is that of the columns of its sheets. */
export interface LineUp {
  id: string
  title: string
  places: Schema.PlaceMeta[]
  figures: Record<string, PlacedFigure>
  choices: Record<string, PlacedChoice>
  checks: Record<string, PlacedCheck>
  picks: Record<string, PlacedPick>
  joints: Joint[]
  corners: Schema.CornerMeta[]
  first: number
  fields: Schema.Field[]
  sums: Schema.Sum[]
  views: string[]
  order: string[]
  /** The headings of every stage's sheet, in order. */
  groups: Record<string, string[]>
  /** Names under which a place hands a figure of another place on. */
  same: Record<string, string>
}
export interface LineUpSent {
  meta: Schema.LineUpMeta
  lineup: LineUp
}

export interface FigureValue extends Schema.Note {
  values: (number | null)[]
  pinned?: boolean
  reason?: string
  computed?: (number | null)[]
}
export type CheckValue = Schema.Judged & { sentence: string }
export interface Sheet {
  corners: Schema.CornerMeta[]
  figures: Record<string, FigureValue>
  picks: Record<string, Schema.Part>
  checks: Record<string, CheckValue>
  passes: Schema.Passes
}

export function lineUpOf(meta: Schema.LineUpMeta, stages: Record<string, Schema.StageMeta>): LineUp {
  const figures: LineUp['figures'] = {}
  const choices: LineUp['choices'] = {}
  const checks: LineUp['checks'] = {}
  const picks: LineUp['picks'] = {}
  const stageOf = Object.fromEntries(meta.places.map((p) => [p.name, stages[p.stage]!]))
  for (const { name: place, stage } of meta.places) {
    for (const [name, f] of Object.entries(stages[stage]!.figures)) figures[`${place}.${name}`] = { ...f, place }
    for (const [name, c] of Object.entries(stages[stage]!.choices)) choices[`${place}.${name}`] = { ...c, place, name }
  }
  Object.assign(figures, meta.extra)
  for (const [alias, key] of Object.entries(meta.same)) {
    const [place, name] = alias.split('.') as [string, string]
    const title = name[0]!.toUpperCase() + name.slice(1).replaceAll('_', ' ')
    figures[alias] = { ...figures[key]!, place, name, title, kind: 'renamed' }
  }
  for (const c of meta.checks)
    checks[c.key] = { ...stageOf[c.place]!.checks[c.name]!, place: c.place, demand: c.demand, capability: c.capability }
  for (const p of meta.picks)
    picks[p.key] = { ...stageOf[p.place]!.picks[p.name]!, place: p.place, published: p.published }
  const groups = Object.fromEntries(Object.entries(stages).map(([name, s]) => [name, s.groups]))
  return { ...meta, figures, choices, checks, picks, groups }
}

/** The sheet of what was sent; what is as it was in `before` stays the very same object, so that only what changed is drawn anew. */
export function sheetOf(meta: Schema.LineUpMeta, columns: Schema.Columns, before?: Sheet): Sheet {
  const figures: Sheet['figures'] = {}
  const notes = columns.open?.notes ?? {}
  meta.order.forEach((key, i) => {
    const value = columns.values[i]
    figures[key] = { values: Array.isArray(value) ? value : [value ?? null], ...notes[key] }
  })
  for (const [key, pin] of Object.entries(columns.pinned))
    Object.assign((figures[key] ??= { values: [] }), { pinned: true, ...pin })
  for (const [alias, key] of Object.entries(meta.same)) if (figures[key]) figures[alias] = figures[key]
  const sentences = columns.open?.sentences ?? {}
  const checks = meta.checks.map(
    (c, i) => [c.key, { ...columns.checks[i]!, sentence: sentences[c.key] ?? '' }] as const,
  )
  return {
    corners: meta.corners,
    figures: standing(figures, before?.figures),
    picks: standing(Object.fromEntries(meta.picks.map((p, i) => [p.key, columns.picks[i]!])), before?.picks),
    checks: standing(Object.fromEntries(checks), before?.checks),
    passes: columns.passes,
  }
}

/** The record with every entry that says the same as before taken over from there. */
function standing<T>(now: Record<string, T>, before: Record<string, T> | undefined): Record<string, T> {
  if (!before) return now
  for (const key of Object.keys(now)) {
    const then = before[key]
    if (then !== undefined && alike(then, now[key])) now[key] = then
  }
  return now
}

function alike(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  const [x, y] = [a as Record<string, unknown>, b as Record<string, unknown>]
  const keys = Object.keys(x)
  return keys.length === Object.keys(y).length && keys.every((k) => k in y && alike(x[k], y[k]))
}
