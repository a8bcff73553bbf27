/** Where the names of what hangs on a stage stand: side by side as far as there is room, then on the next row. */
import type { PlaceMeta } from '../../api'

/** A letter of the small type at its widest, and what stands beside a name: its rhombus and a gap. */
const LETTER = 6.1
const BESIDE = 21

export const widthOf = (title: string) => BESIDE + LETTER * title.length

export interface Hung {
  place: PlaceMeta
  x: number
  row: number
  width: number
}

/** What hangs on one stage, from `start` on within `room`. */
export function flowed(places: PlaceMeta[], start: number, room: number): Hung[] {
  let [x, row] = [0, 0]
  return places.map((place) => {
    const width = widthOf(place.title)
    if (x > 0 && x + width > room) [x, row] = [0, row + 1]
    const found = { place, x: start + x, row, width }
    x += width
    return found
  })
}

export const rowsOf = (hung: Hung[]) => Math.max(0, ...hung.map((h) => h.row + 1))

/** All that hangs on a line from left to right: each stage has the room up to the next that has something hanging. */
export function along(groups: PlaceMeta[][], at: (i: number) => number, step: number, width: number): Hung[][] {
  const start = (i: number) => Math.max(8, at(i) - Math.min(step / 2 - 12, 62))
  return groups.map((places, i) => {
    const next = groups.findIndex((g, k) => k > i && g.length > 0)
    return flowed(places, start(i), (next < 0 ? width : start(next)) - start(i))
  })
}
