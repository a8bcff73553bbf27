/** Where a circuit will stand while it is fetched: as high as it was the last time, so that what is below it stays where it is. */
import { useEffect, useRef, type RefObject } from 'react'

/** What a circuit with its probe takes as a rule, and the probe of it, in pixels. */
const USUAL = { circuit: 780, probe: 470 }
const heights = new Map<string, number>()

export function Awaited({ of, place, says }: { of: 'circuit' | 'probe'; place: string; says: string }) {
  return (
    <p
      className="quiet"
      aria-busy="true"
      style={{ minHeight: heights.get(`${of} ${place}`) ?? USUAL[of], margin: '16px 0 0' }}>
      {says}
    </p>
  )
}

/** Remember how high something stands, for the next time it is waited for. */
export function useHeight<Box extends HTMLElement>(of: 'circuit' | 'probe', place: string): RefObject<Box | null> {
  const box = useRef<Box>(null)
  useEffect(() => {
    if (box.current) heights.set(`${of} ${place}`, box.current.offsetHeight)
  })
  return box
}
