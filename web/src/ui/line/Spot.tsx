import { memo, type ReactNode } from 'react'
import type { Verdict } from '../../api'
import { Rhombus } from '../Mark'

export interface SpotProps {
  /** Name of the place, which it leads to. */
  name: string
  verdict: Verdict
  /** Whether its sheet is open. */
  open: boolean
  /** Whether its build is held: a small square stands in its rhombus. */
  held: boolean
  go: (place: string) => void
}
interface Props extends SpotProps {
  /** All that is read there, in its order. */
  label: string
  /** Whether it grows when its sheet is open. */
  grows?: boolean
  /** Left, top, width and height of what takes the click. */
  area: [number, number, number, number]
  children: ReactNode
}

/** A place on the line that leads to its sheet, by mouse and by key. */
export function Spot({ name, verdict, open, held, go, label, grows = true, area, children }: Props) {
  const [x, y, width, height] = area
  return (
    <g
      className={open && grows ? 'spot open' : 'spot'}
      role="link"
      tabIndex={0}
      aria-label={`${label}: ${verdict}${held ? ', held' : ''}`}
      aria-current={open ? 'page' : undefined}
      onClick={() => go(name)}
      onKeyDown={(e) => {
        if (e.key === 'Enter' || e.key === ' ') {
          e.preventDefault()
          go(name)
        }
      }}
      data-place={name}
      data-verdict={verdict}>
      <rect x={x} y={y} width={width} height={height} fill="transparent" />
      {children}
    </g>
  )
}

/** The build of a stage is held: what was ordered stays. */
export const HeldMark = ({ x, y }: { x: number; y: number }) => (
  <rect className="held" x={x - 3.2} y={y - 3.2} width={6.4} height={6.4} fill="var(--sheet)" stroke="var(--ink)" />
)

interface AttachmentProps extends SpotProps {
  title: string
  /** Title of the stage that it hangs on. */
  host: string
  x: number
  y: number
  width: number
}

/** What hangs on a stage: a small rhombus with its name. */
export const Attachment = memo(function Attachment({ title, host, x, y, width, ...spot }: AttachmentProps) {
  const name = title.toLowerCase()
  return (
    <Spot {...spot} label={`${name} on ${host}`} grows={false} area={[x - 6, y - 8, width, 16]}>
      <Rhombus x={x} y={y} r={4.6} verdict={spot.verdict} />
      <text className={spot.open ? 'hang open' : 'hang'} x={x + 9} y={y + 4}>
        {name}
      </text>
    </Spot>
  )
})
