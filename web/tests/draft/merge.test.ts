import { describe, expect, test } from 'vitest'
import { merge, same } from '../../src/state/draft/merge'
import * as moves from '../../src/state/moves'
import { sampleDesign } from '../sample'

const base = moves.addedLoad(sampleDesign({ givens: { 'load_1.rated_power': 300, 'battery.cells': 8 } }))

describe('two sides of a design', () => {
  test('that changed different fields come together without a question, whichever side is asked', () => {
    const here = moves.given('battery.cells', 7)(moves.chosen('battery.chemistry', 'lead')(base))
    const there = moves.pinned('front.peak_voltage', 72, 'measured')(moves.renamedLoad('load_1', 'Oven')(base))
    const merged = merge(base, here, there)
    expect(merged.both).toEqual([])
    expect(merged.cameIn.sort()).toEqual(['loads.load_1', 'pins.front.peak_voltage'])
    expect(same(merged.here, merged.there)).toBe(true)
    expect(
      same(merged.here, moves.pinned('front.peak_voltage', 72, 'measured')(moves.renamedLoad('load_1', 'Oven')(here))),
    ).toBe(true)
  })
  test('that changed one field to different values are asked about; to the same value, not', () => {
    const [here, there] = [7, 9].map((n) => moves.given('battery.cells', n)(base)) as [typeof base, typeof base]
    const merged = merge(base, here, there)
    expect(merged.both).toEqual(['givens.battery.cells'])
    expect([merged.here.givens['battery.cells'], merged.there.givens['battery.cells']]).toEqual([7, 9])
    expect(merge(base, here, { ...here }).both).toEqual([])
  })
  test('a load taken out on one side takes along what the other said of it', () => {
    const merged = merge(base, moves.removedLoad('load_2')(base), moves.given('battery.cells', 7)(base))
    expect(merged.here.loads.map((l) => l.place)).toEqual(['load_1'])
    expect(Object.keys(merged.here.givens).filter((k) => k.startsWith('load_2'))).toEqual([])
    const said = merge(base, moves.removedLoad('load_2')(base), moves.given('load_2.rated_power', 90)(base))
    expect(said.both).toEqual(['givens.load_2.rated_power'])
    expect(said.there.loads.length + Object.keys(said.there.givens).filter((k) => k.startsWith('load_2')).length).toBe(
      1,
    )
  })
  test('without what they began from, every difference is asked about', () => {
    const there = moves.given('battery.cells', 9)(moves.renamedLoad('load_1', 'Oven')(base))
    expect(merge(null, base, there).both.sort()).toEqual(['givens.battery.cells', 'loads.load_1'])
  })
  test('a merge with oneself changes nothing, and undoing a field is a change like any', () => {
    expect(same(merge(base, base, base).here, base)).toBe(true)
    const pinned = moves.pinned('front.peak_voltage', 72, '')(base)
    expect(merge(pinned, moves.unpinned('front.peak_voltage')(pinned), pinned).here.pins).toEqual({})
    expect(merge(pinned, pinned, moves.unpinned('front.peak_voltage')(pinned)).cameIn).toEqual([
      'pins.front.peak_voltage',
    ])
  })
  test('is the same whatever the order of its keys', () => {
    const { title, ...others } = base
    expect(same({ ...others, title }, base)).toBe(true)
    expect(same(moves.given('battery.cells', 7)(base), base)).toBe(false)
  })
})
