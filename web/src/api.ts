/** The HTTP interface as the page sees it. */
export type Values = (number | null)[]
export interface FigureMeta {
  place: string
  name: string
  kind: string
  title: string
  symbol: string
  unit: string
  shown_unit: string
  sentence: string
  low: number | null
  high: number | null
  default: number | string | null
  judgement: boolean
  source: string
  owner: string
}
/** What can hurt people at a place: `figure` measures it, from `above` (SI) on it is told. */
export interface Hazard {
  kind: 'dc_voltage' | 'pulsed_voltage' | 'ac_voltage' | 'energy' | 'discharge' | 'fault_current'
  figure: string
  above: number
}

export interface PlaceMeta {
  name: string
  title: string
  stage: string
  section: string
  host: string | null
  path: boolean
  telling: string
  hazards: Hazard[]
}
export interface ChoiceMeta {
  place: string
  name: string
  title: string
  sentence: string
  default: string
  options: Record<string, string>
}
export interface CheckMeta {
  place: string
  title: string
  why: string
  harm: string
  demand: string
  capability: string
}
export interface PickMeta {
  place: string
  title: string
  sentence: string
  type: string
  published: string[]
}
export interface Joint {
  from: string
  to: string
  voltage: string
  current: string
  sign: string
  tail: string
}
export interface LineUpMeta {
  id: string
  title: string
  places: PlaceMeta[]
  figures: Record<string, FigureMeta>
  choices: Record<string, ChoiceMeta>
  checks: Record<string, CheckMeta>
  picks: Record<string, PickMeta>
  joints: Joint[]
}
export interface FigureValue {
  values: Values
  pinned?: boolean
  reason?: string
  computed?: Values
  unknown?: Record<string, string>
  does_not_apply?: Record<string, string>
  warnings?: string[]
}
export type Verdict = 'holds' | 'tight' | 'fails' | 'unknown'
export interface CheckValue {
  margin: Values
  verdicts: Verdict[]
  verdict: Verdict
  worst: string
  fail: number | null
  hold: number | null
  harm: string
  sentence: string
  no_demand: boolean
}
export interface RunnerUp {
  part: string
  quantity: number
  fits: boolean
  because: string
  capability: number | null
  demand: number | null
  unit: string
}
export interface PickValue {
  part: string
  quantity: number
  record: Record<string, number | string>
  fits: boolean
  pinned: boolean
  tightest: { need: string; margin: number | null }
  runners_up: RunnerUp[]
}
export interface Sheet {
  corners: { id: string; title: string }[]
  figures: Record<string, FigureValue>
  picks: Record<string, PickValue>
  checks: Record<string, CheckValue>
  passes: { outer: number; inner: number; alternating: string[] }
}
export interface PinnedValue {
  value: number | null
  part: string | null
  quantity: number
  reason: string
}
export interface Design {
  format: 'rhombos-design'
  version: 1
  title: string
  lineup: string
  loads: { place: string; title: string }[]
  givens: Record<string, number>
  choices: Record<string, string>
  pins: Record<string, PinnedValue>
  parts: Record<string, Record<string, number | string>>
}
export interface ProjectRow {
  id: number
  title: string
  head: number
  /** Message of the newest revision. */
  message: string
  created: string
  touched: string
}
export interface RevisionRow {
  number: number
  parent: number
  author: string
  message: string
  created: string
}
export interface Decision {
  id: number
  revision: number
  title: string
  reason: string
  author: string
  created: string
}
export interface Project extends ProjectRow {
  draft: { version: number; base: number; design: Design; saved: string }
  revisions: RevisionRow[]
  decisions: Decision[]
  catalogue_changes: { pick: string; part: string; what: string }[]
}
export interface Neighbour {
  key: string
  title: string
  symbol: string
  value: number | null
  text: string
  kind: string
  pinned: boolean
}
export interface Why {
  key: string
  title: string
  sentence: string
  source: string
  symbol: string
  formula: string
  numbers: string
  value: number | null
  text: string
  corner: string
  binds: boolean
  comes_from: Neighbour[]
  carries_on_to: Neighbour[]
  pinned: boolean
  reason: string
  computed: string
  empirical: boolean
  cause: string
  movable: { key: string; title: string; place: string }[]
}
export interface Bar {
  key: string
  title: string
  held_down: number | null
  held_up: number | null
  sized_down: number | null
  sized_up: number | null
  jumped: string
}
export interface Remedy {
  check: string
  key: string
  title: string
  kind: string
  before: number
  after: number
  sentence: string
  breaks: string[]
}
export interface Sought {
  key: string
  value: number
  reaches: number
  exact: boolean
  below: [number, number] | null
  above: [number, number] | null
}
export interface Curve {
  x: string
  points: number[]
  series: Record<string, Values>
}
export interface Comparison {
  id: string
  title: string
  switch_voltage: number | null
  switch: string
  loss: number | null
  idle: number | null
  efficiency: Values
  parts: number | null
  cost: number | null
  mass: number | null
  tightest: { check: string; title: string; verdict: Verdict; margin: number }
  fails: number
  tight: number
}
export interface Trace {
  t: number[]
  v: number[]
  unit: string
}
export interface Meter {
  true_rms: number
  average: number
  peak_scaled: number
  peak: number
}
export interface ScopePicture {
  period: number
  traces: Record<'node' | 'choke' | 'output', Trace>
  harmonics: { order: number; output: number; node: number }[]
  carrier_order: number
  thd: number
  residue: number
  ripple: number
  choke_ripple: number
  choke_peak: number
  sampling: string
  expected_distortion: number
  edges: number
  meters: Record<'output' | 'node', Meter>
  note: string
}
export interface PartRow {
  place: string
  what: string
  part: string
  description: string
  quantity: number
  price: number | null
  total: number | null
}
export interface Winding {
  name: string
  turns: number
  strands: number
  diameter: number
  length: number
  resistance: number
  mass: number
  start: string
  finish: string
  note: string
}
export interface WindingCard {
  halves: number
  core: { area: number; window: number; breadth: number; mean_turn: number }
  order: Winding[]
  interfaces: number
  insulation: number
  expected: Record<string, number>
  test: string
}
export interface BuildPack {
  parts: PartRow[]
  csv: string
  winding: WindingCard
}
export interface AloneInput {
  name: string
  kind: string
  title: string
  unit: string
  symbol: string
  sentence: string
  /** A usual value as a person would type it; empty where there is none. */
  suggested: string
}
export interface AloneStage {
  name: string
  title: string
  path: boolean
  figures: { name: string; title: string; unit: string; symbol: string; kind: string }[]
  inputs: AloneInput[]
}

/** What the server answered when it refused; status 0 means that it did not answer at all. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly kind: string,
    message: string,
    readonly body: Record<string, unknown>,
  ) {
    super(message)
  }
}

export async function call<T>(
  path: string,
  init: { method?: string; body?: unknown; signal?: AbortSignal; text?: string } = {},
): Promise<T> {
  let answer: Response
  try {
    answer = await fetch(`/api/${path}`, {
      method: init.method ?? (init.body !== undefined || init.text !== undefined ? 'POST' : 'GET'),
      headers: init.body !== undefined || init.text !== undefined ? { 'content-type': 'application/json' } : {},
      body: init.text ?? (init.body !== undefined ? JSON.stringify(init.body) : undefined),
      signal: init.signal,
    })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new Refused(0, 'away', 'Rhombos does not answer. What you typed is kept here.', {})
  }
  const body = await answer.json().catch(() => ({}))
  if (!answer.ok)
    throw new Refused(answer.status, String(body.error ?? ''), String(body.message ?? answer.statusText), body)
  return body as T
}
