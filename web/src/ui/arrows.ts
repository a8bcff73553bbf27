/** Arrow keys that walk through what stands in a row or a column, as the eye does. */
import type { KeyboardEvent } from 'react'

/** Moves the focus to the next or former of `selector` within what the event was caught by; Home and End to the ends. */
export function walk(e: KeyboardEvent<Element>, selector: string, [back, on] = ['ArrowUp', 'ArrowDown']): void {
  if (![back, on, 'Home', 'End'].includes(e.key) || e.altKey || e.ctrlKey || e.metaKey) return
  // In a field, Home and End are the field's own.
  if (e.target instanceof HTMLInputElement && (e.key === 'Home' || e.key === 'End')) return
  const all = [...e.currentTarget.querySelectorAll<HTMLElement | SVGElement>(selector)]
  const at = all.indexOf(e.target as HTMLElement)
  const next = { [back!]: at < 0 ? -1 : at - 1, [on!]: at + 1, Home: 0, End: all.length - 1 }[e.key]!
  if (!all[next]) return
  e.preventDefault()
  e.stopPropagation()
  all[next].focus()
}
