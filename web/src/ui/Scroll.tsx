/** What may be wider than the screen: it scrolls within itself, by keys as well as by hand. */
import { useEffect, useRef, useState, type ReactNode } from 'react'

export function Scroll({ of, children }: { of: string; children: ReactNode }) {
  const box = useRef<HTMLDivElement>(null)
  const [wide, setWide] = useState(false)
  useEffect(() => {
    const element = box.current
    if (!element) return
    const watch = new ResizeObserver(() => setWide(element.scrollWidth > element.clientWidth))
    watch.observe(element)
    return () => watch.disconnect()
  }, [])
  return (
    <div className="scroll" ref={box} {...(wide && { tabIndex: 0, role: 'region', 'aria-label': of })}>
      {children}
    </div>
  )
}
