import { expect, it } from 'vitest'
import type { PlaceMeta } from '../src/api'
import { along, flowed, rowsOf, widthOf } from '../src/ui/line/hung'

const places = (...titles: string[]) => titles.map((title) => ({ name: title, title }) as PlaceMeta)
const FRONT = places('Supply', 'Oscillator', 'Gates', 'Driver', 'Clamp', 'Soft start', 'Sensing')

it('lays what hangs on a stage side by side within its room, and nothing over its neighbour', () => {
  for (const room of [90, 143, 226, 430]) {
    const hung = flowed(FRONT, 20, room)
    for (const one of hung) {
      expect(one.x + widthOf(one.place.title)).toBeLessThanOrEqual(20 + Math.max(room, one.width))
      for (const other of hung)
        if (other !== one && other.row === one.row)
          expect(other.x >= one.x + one.width || one.x >= other.x + other.width).toBe(true)
    }
    expect(rowsOf(hung)).toBeGreaterThan(room < 300 ? 1 : 0)
  }
  expect(rowsOf(flowed(FRONT, 0, 430))).toBe(2)
})

it('gives a stage the room of those that have nothing hanging', () => {
  const groups = [places('Cut-off', 'Gauge'), FRONT, [], [], places('Feedback', 'Loop'), []]
  const found = along(groups, (i) => 66 + 143 * i, 143, 1280)
  expect(found[1]!.every((h) => h.x + h.width <= found[4]![0]!.x)).toBe(true)
  expect(found[0]!.every((h) => h.x >= 0 && h.x + h.width <= found[1]![0]!.x)).toBe(true)
  expect(rowsOf(found[2]!)).toBe(0)
})
