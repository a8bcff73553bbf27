/** Light or dark: what was chosen here stands; until then the page follows the system. */
const NAME = 'rhombos-look'

export function setLook(): void {
  const chosen = localStorage.getItem(NAME)
  const dark = chosen === 'dark' || (chosen === null && matchMedia('(prefers-color-scheme: dark)').matches)
  document.documentElement.classList.toggle('dark', dark)
}

export function switchLook(): void {
  const dark = document.documentElement.classList.toggle('dark')
  localStorage.setItem(NAME, dark ? 'dark' : 'light')
}
