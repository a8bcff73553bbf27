/** What may be wider than the screen: it scrolls within itself, by keys as well as by hand, and fades where more of it lies. */
import { useEffect, useRef, useState, type ReactNode } from 'react'

/** On which sides more of what is shown lies out of sight, in so many pixels of `all`, `seen` of them from `left` on. */
export function more(left: number, seen: number, all: number): string {
  return [left > 1 && 'left', left + seen < all - 1 && 'right'].filter(Boolean).join(' ')
}

export function Scroll({ of, children }: { of: string; children: ReactNode }) {
  const box = useRef<HTMLDivElement>(null)
  const [wide, setWide] = useState(false)
  useEffect(() => {
    const element = box.current
    if (!element) return
    const tell = () => {
      setWide(element.scrollWidth > element.clientWidth)
      element.dataset.more = more(element.scrollLeft, element.clientWidth, element.scrollWidth)
    }
    const watch = new ResizeObserver(tell)
    watch.observe(element)
    // What is inside may come later, or become wider.
    for (const child of element.children) watch.observe(child)
    element.addEventListener('scroll', tell, { passive: true })
    return () => {
      watch.disconnect()
      element.removeEventListener('scroll', tell)
    }
  }, [])
  return (
    <div className="scroll" ref={box} {...(wide && { tabIndex: 0, role: 'region', 'aria-label': of })}>
      {children}
    </div>
  )
}
