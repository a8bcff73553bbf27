/** The line: the path as rhombi on one copper conductor whose thickness follows the logarithm of the current. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { placeVerdict, telling } from '../../state/figures'
import { heldPlaces } from '../../state/moves'
import { useSheet } from '../../state/sheet'
import { useWorked, useWorkspace } from '../../state/workspace'
import { walk } from '../arrows'
import { jointTo, type Drawn } from './drawn'
import { Tall } from './Tall'
import { Wide } from './Wide'

const NARROWEST_WIDE = 1000
const TALL_BELOW = 640

export function Line() {
  const { meta, sheet, corner } = useSheet()
  const { base } = useWorkspace('base')
  // Of the design itself only what was chosen is told.
  const choices = useWorked((w) => w.design.choices)
  const pins = useWorked((w) => w.design.pins)
  const box = useRef<HTMLElement>(null)
  const [width, setWidth] = useState(1240)
  const navigate = useNavigate()
  const open = useParams()['*']?.split('/')[1] ?? ''
  useEffect(() => {
    const element = box.current
    if (!element) return
    const watch = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width))
    watch.observe(element)
    return () => watch.disconnect()
  }, [])
  const go = useCallback((place: string) => void navigate(`${base}/stages/${place}`), [navigate, base])
  const held = useMemo(() => heldPlaces(pins), [pins])
  const tall = width < TALL_BELOW
  const drawn: Drawn = {
    // A stage that stands alone hangs on nothing, and is a line of one.
    path: meta.places.filter((p) => p.path || p.host === null),
    hung: (host) => meta.places.filter((p) => p.host === host.name && p.section !== 'loads' && p.section !== 'whole'),
    width: tall ? width : Math.max(width, NARROWEST_WIDE),
    spot: ({ name }) => ({
      name,
      verdict: placeVerdict(meta, sheet, name, corner),
      open: name === open,
      held: held.has(name),
      go,
    }),
    tell: (place) => telling(meta, sheet, choices, place, corner),
    joint: (to) => jointTo(meta, sheet, corner, to.name),
  }
  return (
    <nav
      className={tall ? 'line tall' : 'line'}
      ref={box}
      aria-label="The line, source first"
      onKeyDown={(e) => walk(e, '[data-place]', tall ? undefined : ['ArrowLeft', 'ArrowRight'])}>
      {tall ? <Tall {...drawn} /> : <Wide {...drawn} />}
    </nav>
  )
}
