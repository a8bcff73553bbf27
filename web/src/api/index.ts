/** The HTTP interface as the page sees it. Types are made from the server's own (`scripts/interface.sh`). */
import type * as Schema from './schema'

export type {
  BuildPack,
  Column,
  Comparison,
  CornerMeta,
  Hazard,
  LineUpRow,
  Neighbour,
  Part,
  PartRow,
  PickTold,
  PlaceMeta,
  ProjectRow,
  Remedy,
  Row,
  RunnerUp,
  ScopeTold,
  Sought,
  StageRow,
  Suits,
  Swing,
  Trace,
  WhyTold,
  WindingCard,
} from './schema'
export type {
  CheckValue,
  FigureValue,
  Joint,
  LineUp,
  Picture,
  PlacedCheck,
  PlacedChoice,
  PlacedFigure,
  PlacedPick,
  Sheet,
} from './sheet'

export type Values = (number | null)[]
export type Verdict = Schema.Judged['verdict']
export type PinnedValue = Required<Schema.PinnedValue>
export type Design = Omit<Required<Schema.Design>, 'pins'> & { pins: Record<string, PinnedValue> }
export type Project = Omit<Schema.Project, 'draft'> & { draft: Omit<Schema.Draft, 'design'> & { design: Design } }

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
