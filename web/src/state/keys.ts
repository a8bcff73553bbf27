/** Single letters act while no field has the focus; a person may switch them off. */
const NAME = 'rhombos-letters'

export const lettersOn = (): boolean => localStorage.getItem(NAME) !== 'off'
export const switchLetters = (on: boolean): void => localStorage.setItem(NAME, on ? 'on' : 'off')

/** Whether a key press is meant for the page: no modifier, no field, no dialog under it. */
export function meantForPage(e: KeyboardEvent): boolean {
  const target = e.target as HTMLElement
  const writing = /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) || target.closest?.('[role=dialog]')
  return !(e.ctrlKey || e.metaKey || e.altKey || writing)
}
