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

/** After this long, in milliseconds, nobody is writing any more what another window kept: its window is gone. */
const ORPHANED = 15_000

/** The place in the browser for one project; `made` tells it from another one of that number in another database. Every window has its own. */
export function shelfOf(project: number, made: string): Shelf & { found: () => Kept | null } {
  const prefix = `rhombos-draft-${project}-${made}-`
  const own = prefix + windowName()
  return {
    keep: (what) => quietly(() => localStorage.setItem(own, JSON.stringify({ ...what, at: Date.now() }))),
    forget: () => quietly(() => localStorage.removeItem(own)),
    found: () =>
      quietly(() => {
        const read = (name: string) =>
          JSON.parse(localStorage.getItem(name) ?? 'null') as (Kept & { at: number }) | null
        const left = Object.keys(localStorage).filter((n) => n.startsWith(prefix) && n !== own)
        for (const name of [own, ...left]) {
          const kept = read(name)
          if (!kept || (name !== own && Date.now() - kept.at < ORPHANED)) continue
          localStorage.removeItem(name)
          return kept
        }
        return null
      }) ?? null,
  }
}

/** A name that this window keeps when it is loaded again. */
function windowName(): string {
  const name = 'rhombos-window'
  return (
    quietly(() => {
      const given = sessionStorage.getItem(name) ?? crypto.randomUUID()
      sessionStorage.setItem(name, given)
      return given
    }) ?? 'one'
  )
}

/** A full, broken or forbidden storage must not stop the edit itself. */
function quietly<T>(work: () => T): T | undefined {
  try {
    return work()
  } catch {
    return undefined
  }
}

/** How an opened project goes on: from the server's draft, or from what was kept of it here. */
export function begin(draft: Stored, kept: Kept | null): Kept {
  if (!kept || same(kept.design, draft.design)) return { base: draft, design: draft.design, unheard: [] }
  // The draft may be what was under way when the page was closed, with nobody left to hear its acknowledgement.
  const arrived = kept.base.version === draft.version || kept.unheard.some((d) => same(d, draft.design))
  return arrived ? { base: draft, design: kept.design, unheard: [] } : kept
}
