/** What an edit changed: parts, whole numbers and verdicts that moved, and the former value of every figure that did. */
import type { LineUp, Sheet } from '../api'
import { counted } from './figures'

export interface Change {
  key: string
  kind: 'part' | 'number' | 'verdict'
  from: string
  to: string
}

export function changes(
  meta: LineUp,
  before: Sheet,
  after: Sheet,
): { list: Change[]; former: Record<string, number | null> } {
  const list: Change[] = []
  const former: Record<string, number | null> = {}
  for (const [key, now] of Object.entries(after.checks)) {
    const then = before.checks[key]
    if (then && then.verdict !== now.verdict) list.push({ key, kind: 'verdict', from: then.verdict, to: now.verdict })
  }
  for (const [key, now] of Object.entries(after.picks)) {
    const then = before.picks[key]
    if (then && (then.part !== now.part || then.quantity !== now.quantity))
      list.push({ key, kind: 'part', from: counted(then), to: counted(now) })
  }
  for (const [key, now] of Object.entries(after.figures)) {
    const then = before.figures[key]
    // Told where the number is made, not where it is handed on; what a pick publishes goes with its part.
    const figure = meta.figures[key]
    if (!then || then === now || then.values.length !== now.values.length || figure?.kind === 'renamed') continue
    if (now.values.length !== 1) continue
    const [a, b] = [then.values[0] ?? null, now.values[0] ?? null]
    if (!differs(a, b)) continue
    former[key] = a
    if (a !== null && b !== null && figure?.whole && figure.kind === 'build')
      list.push({ key, kind: 'number', from: String(a), to: String(b) })
  }
  return { list, former }
}

function differs(a: number | null, b: number | null): boolean {
  if (a === null || b === null) return a !== b
  return Math.abs(a - b) > 5e-4 * Math.max(Math.abs(a), Math.abs(b))
}
