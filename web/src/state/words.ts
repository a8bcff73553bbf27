/** Words typed into a field and not taken yet: they outlive a reload of the page, and are read then. */
const name = (field: string) => `rhombos-words-${window.location.pathname}-${field}`

export function keepWords(field: string, words: string | null): void {
  try {
    if (words === null) sessionStorage.removeItem(name(field))
    else sessionStorage.setItem(name(field), words)
  } catch {
    // Without a store they live as long as the page does.
  }
}

export function keptWords(field: string): string | null {
  try {
    return sessionStorage.getItem(name(field))
  } catch {
    return null
  }
}
