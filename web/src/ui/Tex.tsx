import { useEffect, useRef } from 'react'

const SMALLEST = 0.62

/** Smaller until it fits; delimiters change in steps, so it is looked at again. */
function fit(box: HTMLElement): void {
  const whole = parseFloat(getComputedStyle(box).fontSize)
  let share = 1
  for (let turn = 0; turn < 4 && box.scrollWidth > box.clientWidth && share > SMALLEST; turn++) {
    share = Math.max(SMALLEST, share * (box.clientWidth / box.scrollWidth) * 0.985)
    box.style.fontSize = `${whole * share}px`
  }
}

/** A formula, typeset when it is first shown (the typesetter loads then), made smaller where it would not fit its column. */
export function Tex({ tex }: { tex: string }) {
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let live = true
    void Promise.all([import('katex'), import('katex/dist/katex.min.css')]).then(([katex]) => {
      if (!live || !box.current) return
      try {
        box.current.style.fontSize = ''
        katex.default.render(tex, box.current, { throwOnError: true, displayMode: true, output: 'html' })
        fit(box.current)
      } catch {
        box.current.textContent = tex
      }
    })
    return () => {
      live = false
    }
  }, [tex])
  return <div className="formula" ref={box} aria-label={tex} />
}

/** A value with its unit as running text within a formula; a power of the unit set as one. */
export const texOf = (t: string): string => {
  if (!t) return '\\text{?}'
  const plain = t.replace(/%/g, '\\%').replace(/[²³⁴]/g, (power) => `}^${'²³⁴'.indexOf(power) + 2}\\textsf{`)
  return `\\textsf{${plain}}`
}
