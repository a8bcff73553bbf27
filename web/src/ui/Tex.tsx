import { useEffect, useRef } from 'react'

/** A formula, typeset when it is first shown (the typesetter loads then). */
export function Tex({ tex }: { tex: string }) {
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let live = true
    void Promise.all([import('katex'), import('katex/dist/katex.min.css')]).then(([katex]) => {
      if (!live || !box.current) return
      try {
        katex.default.render(tex, box.current, { throwOnError: true, displayMode: true, output: 'html' })
      } catch {
        box.current.textContent = tex
      }
    })
    return () => { live = false }
  }, [tex])
  return <div className="formula" ref={box} aria-label={tex} />
}
