/** What both drawings of the line are drawn from. */
import type { LineUp, PlaceMeta, Sheet } from '../../api'
import { shown } from '../../number'
import { at } from '../../state/figures'
import type { SpotProps } from './Spot'

export interface JointValues {
  label: string
  amperes: number | null
}

export interface Drawn {
  /** The stages that carry the power, source first. */
  path: PlaceMeta[]
  /** The attachments of a stage. */
  hung: (host: PlaceMeta) => PlaceMeta[]
  width: number
  spot: (place: PlaceMeta) => SpotProps
  tell: (place: PlaceMeta) => string
  /** The bus that a stage of the path takes from. */
  joint: (to: PlaceMeta) => JointValues
}

/** Words that have to do with so many letters. */
export const short = (text: string, room: number) => (text.length > room ? `${text.slice(0, room - 1)}…` : text)

const W0 = 2
const W1 = 5.2
/** Width of the conductor, in pixels. */
export const conductor = (amperes: number | null): number => W0 + W1 * Math.log10(1 + Math.abs(amperes ?? 0))

export function jointTo(meta: LineUp, sheet: Sheet, corner: number, to: string): JointValues {
  const j = meta.joints.find((joint) => joint.to === to)
  if (!j) return { label: '', amperes: 0 }
  const volts = shown(at(sheet.figures[j.voltage], corner), 'V', 3)
  // As many digits as are written: what looks the same is not drawn anew.
  const exact = at(sheet.figures[j.current], corner)
  const amperes = exact === null ? null : Number(exact.toPrecision(3))
  const current = shown(amperes, 'A', amperes !== null && Math.abs(amperes) < 10 ? 2 : 3)
  const tail = j.tail ? ` ${j.tail}` : ''
  return { label: `${j.sign}${volts.number} ${volts.unit} · ${current.number} ${current.unit}${tail}`, amperes }
}
