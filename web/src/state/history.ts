/** The design being edited, with what leads back and forth. */
import { useCallback, useState } from 'react'
import type { Design } from '../api'
import type { Move } from './moves'

const MOST_STEPS = 200
/** Edits of one field that follow each other within this time, in milliseconds, are one step back. */
const ONE_STEP = 1500

interface Step {
  design: Design
  label: string
}

/** A design, the steps to either side of it, the name of the last edit and when it was made. */
export interface Timeline {
  design: Design
  past: Step[]
  future: Step[]
  lastEdit: string
  at: number
}

export const begun = (design: Design): Timeline => ({ design, past: [], future: [], lastEdit: '', at: -Infinity })

export function edited(line: Timeline, label: string, move: Move, now: number): Timeline {
  const design = move(line.design)
  if (design === line.design || JSON.stringify(design) === JSON.stringify(line.design)) return line
  const follows = line.lastEdit === label && now - line.at < ONE_STEP
  const past = follows ? line.past : [...line.past.slice(1 - MOST_STEPS), { design: line.design, label }]
  return { design, past, future: [], lastEdit: label, at: now }
}

export function undone(line: Timeline): Timeline {
  const step = line.past.at(-1)
  if (!step) return line
  return {
    design: step.design,
    past: line.past.slice(0, -1),
    future: [{ design: line.design, label: step.label }, ...line.future],
    lastEdit: `Undo: ${step.label}`,
    at: -Infinity,
  }
}

export function redone(line: Timeline): Timeline {
  const step = line.future[0]
  if (!step) return line
  return {
    design: step.design,
    past: [...line.past, { design: line.design, label: step.label }],
    future: line.future.slice(1),
    lastEdit: `Redo: ${step.label}`,
    at: -Infinity,
  }
}

/** What came from outside goes into every step: undo takes back one's own edits, nobody else's. */
export function brought(line: Timeline, into: Move): Timeline {
  const all = (steps: Step[]) => steps.map((s) => ({ ...s, design: into(s.design) }))
  return { ...line, design: into(line.design), past: all(line.past), future: all(line.future) }
}

export interface History {
  design: Design
  lastEdit: string
  edit: (label: string, move: Move) => void
  bring: (into: Move) => void
  undo: () => void
  redo: () => void
  canUndo: boolean
  canRedo: boolean
}

/** Edits always act on the newest design: one that was waiting for the server takes back none made meanwhile. */
export function useHistory(start: Design): History {
  const [line, setLine] = useState(() => begun(start))
  const edit = useCallback((label: string, move: Move) => {
    const now = performance.now()
    setLine((l) => edited(l, label, move, now))
  }, [])
  const bring = useCallback((into: Move) => setLine((l) => brought(l, into)), [])
  const undo = useCallback(() => setLine(undone), [])
  const redo = useCallback(() => setLine(redone), [])
  const { design, lastEdit, past, future } = line
  return { design, lastEdit, edit, bring, undo, redo, canUndo: past.length > 0, canRedo: future.length > 0 }
}
