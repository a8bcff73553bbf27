/** What was typed and not yet saved survives a reload: it is kept in the browser until the server acknowledges it. */
import type { Design } from '../api'

const name = (project: number) => `rhombos-draft-${project}`

export function keep(project: number, version: number, design: Design): void {
  try {
    localStorage.setItem(name(project), JSON.stringify({ version, design }))
  } catch {
    // A full or forbidden storage must not stop the edit itself.
  }
}

/** The kept design, if it began from the version that the server still has. */
export function kept(project: number, version: number): Design | null {
  try {
    const found = JSON.parse(localStorage.getItem(name(project)) ?? 'null') as {
      version: number
      design: Design
    } | null
    return found && found.version === version ? found.design : null
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
