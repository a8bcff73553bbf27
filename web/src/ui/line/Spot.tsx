import type { ReactNode } from 'react'
import type { Verdict } from '../../api'

interface Props {
  place: string
  label: string
  verdict: Verdict
  open: boolean
  go: (place: string) => void
  /** Left, top, width and height of what takes the click. */
  area: [number, number, number, number]
  children: ReactNode
}

/** A place on the line that leads to its sheet, by mouse and by key. */
export function Spot({ place, label, verdict, open, go, area, children }: Props) {
  const [x, y, width, height] = area
  return (
    <g
      className={open ? 'spot open' : 'spot'}
      role="link"
      tabIndex={0}
      aria-label={`${label}: ${verdict}`}
      onClick={() => go(place)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') go(place)
      }}
      data-place={place}
      data-verdict={verdict}>
      <rect x={x} y={y} width={width} height={height} fill="transparent" />
      {children}
    </g>
  )
}
