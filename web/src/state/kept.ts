/** What was typed and not yet saved survives a reload: it is kept in the browser until the server acknowledges it. */
import type { Design } from '../api'

const name = (project: number) => `rhombos-draft-${project}`

interface Kept {
  version: number
  design: Design
  /** What had been written and not acknowledged when this was kept: any of it may have arrived. */
  unheard: Design[]
}

export function keep(project: number, version: number, design: Design, unheard: Design[] = []): void {
  try {
    const what: Kept = { version, design, unheard }
    localStorage.setItem(name(project), JSON.stringify(what))
  } catch {
    // A full or forbidden storage must not stop the edit itself.
  }
}

/** What was kept of a project, and whether it goes on from the draft that the server has or stands against it. */
export function kept(
  project: number,
  draft: { version: number; design: Design },
): { design: Design; follows: boolean } | null {
  try {
    const found = JSON.parse(localStorage.getItem(name(project)) ?? 'null') as Kept | null
    if (!found || same(found.design, draft.design)) return null
    // The draft may be what was under way when the page was closed, with nobody left to hear its acknowledgement.
    const arrived = found.unheard.some((d) => same(d, draft.design))
    return { design: found.design, follows: found.version === draft.version || arrived }
  } catch {
    return null
  }
}

export function forget(project: number): void {
  try {
    localStorage.removeItem(name(project))
  } catch {
    // Nothing was kept then.
  }
}

/** Whether two designs say the same, in whatever order their keys came. */
export const same = (a: Design, b: Design): boolean => canonical(a) === canonical(b)

function canonical(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) =>
    v && typeof v === 'object' && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  )
}
