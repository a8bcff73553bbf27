import { memo, useEffect, useRef } from 'react'

const SMALLEST = 0.62

/** Smaller until it fits; delimiters change in steps, so it is looked at again. Whether it does. */
function fit(box: HTMLElement): boolean {
  box.style.fontSize = ''
  const whole = parseFloat(getComputedStyle(box).fontSize)
  let share = 1
  for (let turn = 0; turn < 4 && box.scrollWidth > box.clientWidth && share > SMALLEST; turn++) {
    share = Math.max(SMALLEST, share * (box.clientWidth / box.scrollWidth) * 0.985)
    box.style.fontSize = `${whole * share}px`
  }
  return box.scrollWidth <= box.clientWidth
}

const GATHERED = /^([^]*?)\\begin\{gathered\}([^]*)\\end\{gathered\}([^]*)$/

/** The lines of a formula: gathered ones apart, so that each may run on where it is too long. What comes before and after belongs to the first; the others define its terms. */
export function linesOf(tex: string): string[] {
  const found = GATHERED.exec(tex)
  if (!found) return [tex]
  const [head = '', within = '', tail = ''] = found.slice(1)
  const lines = [head]
  let deep = 0
  for (const piece of within.split(/(\\begin|\\end|\\\\)/)) {
    if (piece === '\\begin') deep++
    if (piece === '\\end') deep--
    if (piece === '\\\\' && deep === 0) lines.push('')
    else lines[lines.length - 1] += piece
  }
  lines[0] += tail
  return lines
}

/** The same line with brackets and commas that do not hold it together: it may then be broken there. */
export const looser = (line: string): string =>
  line
    .replace(/\\left(?![a-z])/g, '\\Bigl')
    .replace(/\\right(?![a-z])/g, '\\Bigr')
    .replace(/[,;](?=\{|\\,)/g, '$&\\allowbreak ')

/** A formula, typeset when it is first shown (the typesetter loads then), broken or made smaller where it would not fit its column. */
export const Tex = memo(function Tex({ tex }: { tex: string }) {
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let live = true
    void Promise.all([import('katex'), import('katex/dist/katex.min.css')]).then(([katex]) => {
      const into = box.current
      if (!live || !into) return
      into.replaceChildren()
      for (const line of linesOf(tex)) {
        const one = into.appendChild(document.createElement('div'))
        const set = (text: string) =>
          katex.default.render(text, one, { throwOnError: true, displayMode: true, output: 'html' })
        try {
          set(line)
          if (fit(one) || looser(line) === line) continue
          set(looser(line))
          fit(one)
        } catch {
          one.textContent = line
        }
      }
    })
    return () => {
      live = false
    }
  }, [tex])
  return <div className="formula" ref={box} role="math" aria-label={tex} />
})

/** A value with its unit as running text within a formula; a power of the unit set as one. */
export const texOf = (t: string): string => {
  if (!t) return '\\text{?}'
  const plain = t.replace(/%/g, '\\%').replace(/[²³⁴]/g, (power) => `}^${'²³⁴'.indexOf(power) + 2}\\textsf{`)
  return `\\textsf{${plain}}`
}
