import { useEffect, useRef } from 'react'

const SMALLEST = 0.62

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
        const { clientWidth, scrollWidth } = box.current
        if (scrollWidth > clientWidth) box.current.style.fontSize = `${parseFloat(getComputedStyle(box.current).fontSize) * Math.max(SMALLEST, (clientWidth / scrollWidth) * 0.985)}px`
      } catch {
        box.current.textContent = tex
      }
    })
    return () => { live = false }
  }, [tex])
  return <div className="formula" ref={box} aria-label={tex} />
}
