import { describe, expect, test } from 'vitest'
import type { DrawnPart } from '../src/api/schema'
import { besideNode } from '../src/schematic/beside'

const part = (start: number[], end: number[], kind = 'resistor') =>
  ({ name: `${start}`, kind, start, end }) as unknown as DrawnPart
const at = (parts: DrawnPart[], named = false, left = 0, wires: [number, number][][] = []) =>
  besideNode([4, 4], named, { parts, wires, left })

describe("a node's reading", () => {
  test('stands above on the right where nothing lies there', () => {
    expect(at([part([4, 4], [4, 9])]).reading).toEqual({ x: 8, y: -8, anchor: 'start' })
    expect(at([part([1, 4], [4, 4])]).reading.anchor).toBe('start')
  })
  test('gives way to the words of a part that lies to the right, with its name', () => {
    const told = at([part([4, 4], [7, 4])], true)
    expect([told.reading.anchor, told.name.anchor]).toEqual(['end', 'end'])
    expect(told.reading.y).not.toBe(told.name.y)
  })
  test('whichever way round that part was drawn, and not to a wire or to one so long that its words are far', () => {
    expect(at([part([7, 4], [4, 4])]).reading.anchor).toBe('end')
    expect(at([part([4, 4], [7, 4], 'wire')]).reading.anchor).toBe('start')
    expect(at([part([4, 4], [14, 4])]).reading.anchor).toBe('start')
  })
  test('lies below its node between two lying parts, lower where it has a name', () => {
    const both = [part([1, 4], [4, 4]), part([4, 4], [7, 4])]
    expect(at(both).reading).toMatchObject({ x: 0, anchor: 'middle' })
    expect(at(both, true).reading.y).toBeGreaterThan(at(both, true).name.y)
  })
  test('stands beside its node between two short upright parts', () => {
    const short = [part([4, 2], [4, 4]), part([4, 4], [4, 6])]
    expect(at(short).reading).toEqual({ x: 10, y: 5, anchor: 'start' })
    const wire: [number, number][] = [
      [2, 4],
      [9, 4],
    ]
    expect(at(short, false, 0, [wire]).reading.anchor, 'not across a wire').toBe('end')
  })
  test('stands above its node between two lying parts over a short upright one', () => {
    const three = [part([1, 4], [4, 4]), part([4, 4], [7, 4]), part([4, 4], [4, 6])]
    expect(at(three, true).reading).toMatchObject({ x: 0, anchor: 'middle' })
    expect(at(three, true).reading.y).toBeLessThan(0)
  })
  test('does not leave the drawing on the left', () => {
    const corner = [part([4, 4], [7, 4]), part([4, 4], [4, 7])]
    expect(at(corner, false, 4).reading.anchor).not.toBe('end')
    expect(at(corner, true, 4).name.anchor).toBe('start')
  })
})
