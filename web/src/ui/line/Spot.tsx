import type { ReactNode } from 'react'
import type { PlaceMeta, Verdict } from '../../api'
import { Rhombus } from '../Mark'
import type { Drawn } from './drawn'

interface Props {
  place: PlaceMeta
  drawn: Pick<Drawn, 'open' | 'go' | 'verdict'>
  /** All that is read there, in its order. */
  label: string
  /** Whether it grows when its sheet is open. */
  grows?: boolean
  /** Left, top, width and height of what takes the click. */
  area: [number, number, number, number]
  children: (verdict: Verdict, open: boolean) => ReactNode
}

/** A place on the line that leads to its sheet, by mouse and by key. */
export function Spot({ place, drawn, label, grows = true, area, children }: Props) {
  const [x, y, width, height] = area
  const open = drawn.open === place.name
  const verdict = drawn.verdict(place)
  return (
    <g
      className={open && grows ? 'spot open' : 'spot'}
      role="link"
      tabIndex={0}
      aria-label={`${label}: ${verdict}`}
      aria-current={open ? 'page' : undefined}
      onClick={() => drawn.go(place.name)}
      onKeyDown={(e) => {
        if (e.key === 'Enter' || e.key === ' ') {
          e.preventDefault()
          drawn.go(place.name)
        }
      }}
      data-place={place.name}
      data-verdict={verdict}>
      <rect x={x} y={y} width={width} height={height} fill="transparent" />
      {children(verdict, open)}
    </g>
  )
}

interface AttachmentProps extends Pick<Props, 'place' | 'drawn'> {
  host: PlaceMeta
  x: number
  y: number
  width: number
}

/** What hangs on a stage: a small rhombus with its name. */
export function Attachment({ place, drawn, host, x, y, width }: AttachmentProps) {
  return (
    <Spot
      place={place}
      drawn={drawn}
      label={`${place.title.toLowerCase()} on ${host.title}`}
      grows={false}
      area={[x - 6, y - 8, width, 16]}>
      {(verdict, open) => (
        <>
          <Rhombus x={x} y={y} r={4.6} verdict={verdict} />
          <text className={open ? 'hang open' : 'hang'} x={x + 9} y={y + 4}>
            {place.title.toLowerCase()}
          </text>
        </>
      )}
    </Spot>
  )
}
