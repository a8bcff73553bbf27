/** Symbols after IEC 60617, drawn along x about the middle of a part, its plus end on the left. */
import type { DrawnPart } from '../api/schema'

/** A step of the grid, and half of what a symbol takes along its part. */
export const STEP = { x: 43, y: 36 }
export const HALF = 17

const arc = (x: number) => `M${x - 4.25} 0a4.25 4.25 0 0 1 8.5 0`

/** The lines of a symbol; `body` is filled with the sheet's colour, so that no wire shows through. */
export function symbol(kind: DrawnPart['kind']) {
  switch (kind) {
    case 'resistor':
      return <rect className="body" x={-HALF} y={-6} width={2 * HALF} height={12} />
    case 'inductor':
      return <path d={[-12.75, -4.25, 4.25, 12.75].map(arc).join('')} />
    case 'capacitor':
      return <path d={`M${-HALF} 0H-3M-3 -11V11M3 -11V11M3 0H${HALF}`} />
    case 'diode':
      return (
        <>
          <path d={`M${-HALF} 0H${HALF}M8 -8V8`} />
          <path className="body" d="M-7 -8V8L8 0Z" />
        </>
      )
    case 'switch':
      return (
        <>
          <path d={`M${-HALF} 0H-9M9 0H${HALF}M-9 0L9 -10`} />
          <circle className="body" cx={-9} r={2.2} />
          <circle className="body" cx={9} r={2.2} />
        </>
      )
    case 'source':
      return (
        <>
          <circle className="body" r={13} />
          <path d={`M${-HALF} 0H${HALF}M-23 -9h6M-20 -12v6`} />
        </>
      )
    case 'current':
      return (
        <>
          <circle className="body" r={13} />
          <path d={`M${-HALF} 0H-13M13 0H${HALF}M0 -13V13M-27 -8h10m-4 -3.5l4 3.5l-4 3.5`} />
        </>
      )
    case 'sine':
      return (
        <>
          <circle className="body" r={13} />
          <path d={`M${-HALF} 0H-13M13 0H${HALF}M-7 0c2.5 -7 4.5 -7 7 0s4.5 7 7 0`} />
        </>
      )
  }
}
