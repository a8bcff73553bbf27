/** What was typed and not yet saved survives a reload: it is kept in the browser until the server acknowledges it. */
import type { Design } from '../../api'
import { same } from './merge'

/** A draft as the server has it. */
export interface Stored {
  version: number
  design: Design
}

export interface Kept {
  /** What the design began from: the last draft that the server acknowledged here. */
  base: Stored
  design: Design
  /** What had been written and not acknowledged when this was kept: any of it may have arrived. */
  unheard: Design[]
}

export interface Shelf {
  keep: (what: Kept) => void
  forget: () => void
}

/** The place in the browser for one project; `made` tells it from another one of that number in another database. */
export function shelfOf(project: number, made: string): Shelf & { found: () => Kept | null } {
  const name = `rhombos-draft-${project}-${made}`
  return {
    keep: (what) => {
      try {
        localStorage.setItem(name, JSON.stringify(what))
      } catch {
        // A full or forbidden storage must not stop the edit itself.
      }
    },
    forget: () => {
      try {
        localStorage.removeItem(name)
      } catch {
        // Nothing was kept then.
      }
    },
    found: () => {
      try {
        return JSON.parse(localStorage.getItem(name) ?? 'null') as Kept | null
      } catch {
        return null
      }
    },
  }
}

/** How an opened project goes on: from the server's draft, or from what was kept of it here. */
export function begin(draft: Stored, kept: Kept | null): Kept {
  if (!kept || same(kept.design, draft.design)) return { base: draft, design: draft.design, unheard: [] }
  // The draft may be what was under way when the page was closed, with nobody left to hear its acknowledgement.
  const arrived = kept.base.version === draft.version || kept.unheard.some((d) => same(d, draft.design))
  return arrived ? { base: draft, design: kept.design, unheard: [] } : kept
}
