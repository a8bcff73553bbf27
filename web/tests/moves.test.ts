import { describe, expect, test } from 'vitest'
import type { Design } from '../src/api'
import { merge } from '../src/state/draft/merge'
import * as moves from '../src/state/moves'
import { begun, edited, redone, undone, type Timeline } from '../src/state/history'
import { differences } from '../src/state/differences'
import { sampleDesign, sampleMeta } from './sample'

const design = sampleDesign({
  loads: [
    { place: 'load_1', title: 'Heater' },
    { place: 'load_10', title: 'Pump' },
  ],
  givens: { 'load_1.rated_power': 300, 'load_10.rated_power': 90, 'battery.cells': 8 },
  choices: { 'load_1.type': 'heater', 'load_10.type': 'motor' },
  pins: { 'load_1.power_factor': { value: 0.9, part: null, quantity: 1, reason: 'its plate' } },
})

describe('an edit', () => {
  const all: [string, moves.Move][] = [
    ['a given', moves.given('battery.cells', 4)],
    ['a choice', moves.chosen('battery.chemistry', 'lead')],
    ['a pin', moves.pinned('front.turns', 5, 'at hand')],
    ['a pinned part', moves.pinnedPart('front.switch', 'N100-8', 2, 'at hand')],
    ['an unpinning', moves.unpinned('load_1.power_factor')],
    ['another line-up', moves.lineUp('other')],
    ['a new load', moves.addedLoad],
    ['a new name', moves.renamedLoad('load_1', 'Kettle')],
    ['a removal', moves.removedLoad('load_1')],
  ]
  test.each(all)('%s changes a copy and leaves the design as it was', (_, move) => {
    const before = JSON.stringify(design)
    const after = move(design)
    expect(after).not.toBe(design)
    expect(JSON.stringify(after)).not.toBe(before)
    expect(JSON.stringify(design)).toBe(before)
  })
  test('a build is held beside what was pinned by hand, and let go without it', () => {
    const pin = (reason: string) => ({ value: 5, part: null, quantity: 1, reason })
    const mine = { ...design, pins: { 'front.turns': pin('at hand') } }
    const held = moves.heldBuild({ 'front.turns': pin('build held: ordered'), 'link.x': pin('build held: ordered') })(
      mine,
    )
    expect(held.pins['front.turns']!.reason).toBe('at hand')
    expect(moves.heldFor(held)).toBe('ordered')
    expect([...moves.heldPlaces(held.pins)]).toEqual(['link'])
    expect(moves.letGo(held).pins).toEqual(mine.pins)
    expect(moves.heldFor(moves.letGo(held))).toBeNull()
  })
  test('pins with a reason, or goes on with the one that stood there', () => {
    const reason = (move: moves.Move, key: string) => move(design).pins[key]?.reason
    expect(reason(moves.pinned('front.turns', 5, 'at hand'), 'front.turns')).toBe('at hand')
    expect(reason(moves.pinned('front.turns', 5), 'front.turns')).toBe('')
    expect(reason(moves.pinned('load_1.power_factor', 0.8), 'load_1.power_factor')).toBe('its plate')
  })
  test('unpins one figure and no other', () => {
    const pinned = moves.pinned('front.turns', 5)(design)
    expect(Object.keys(moves.unpinned('front.turns')(pinned).pins)).toEqual(['load_1.power_factor'])
  })
  test('takes a load out with all that was said of it, and nothing of load 10 with load 1', () => {
    const left = moves.removedLoad('load_1')(design)
    expect(left.loads.map((l) => l.place)).toEqual(['load_10'])
    expect(left.givens).toEqual({ 'load_10.rated_power': 90, 'battery.cells': 8 })
    expect(left.choices).toEqual({ 'load_10.type': 'motor' })
    expect(left.pins).toEqual({})
  })
  test('adds a load after the highest number there is', () => {
    const more = moves.addedLoad(design)
    expect(more.loads.at(-1)).toEqual({ place: 'load_11', title: 'Load 11' })
    expect(more.givens['load_11.rated_power']).toBeGreaterThan(0)
    expect(moves.addedLoad({ ...design, loads: [] }).loads[0]!.place).toBe('load_1')
  })
  test('never leaves a load without a name', () => {
    expect(moves.renamedLoad('load_10', '')(design).loads[1]!.title).toBe('Load')
  })
})

describe('two sides', () => {
  const meta = sampleMeta()
  const told = (a: Design, b: Design) => differences(merge(null, a, b).both, a, b, meta)
  test('are told in the words of the page, here first', () => {
    const there = moves.chosen('battery.chemistry', 'lead')(moves.given('battery.cells', 7)(design))
    expect(told(design, there)).toEqual([
      'Battery, cells: 8 here, 7 there',
      'Battery, chemistry: not set here, Lead-acid there',
    ])
  })
  test('name loads that came, went or were renamed', () => {
    const there = moves.renamedLoad('load_10', 'Well pump')(moves.removedLoad('load_1')(design))
    const rows = told(design, there)
    expect(rows).toContain('load 1: Heater here, not set there')
    expect(rows).toContain('load 10: Pump here, Well pump there')
    expect(rows).toContain('Heater, power factor: pinned to 0.9 here, not set there')
  })
  test('tell pinned parts and figures with their units', () => {
    const here = moves.pinnedPart('front.switch', 'N100-8', 2, '')(design)
    const there = moves.pinned('front.peak_voltage', 72, '')(design)
    expect(told(here, there)).toEqual([
      'Front, switch: pinned to 2 × N100-8 here, not set there',
      'Front, peak voltage: not set here, pinned to 72\u2009V there',
    ])
  })
  test('that say the same have nothing to tell, and all edits show', () => {
    expect(told(design, JSON.parse(JSON.stringify(design)) as Design)).toEqual([])
    const edits = [
      moves.addedLoad,
      moves.lineUp('other'),
      moves.given('x.unknown', 1),
      moves.unpinned('load_1.power_factor'),
    ]
    for (const edit of edits) expect(told(design, edit(design)).length).toBeGreaterThan(0)
  })
})

describe('undo and redo', () => {
  const cells = (line: Timeline) => line.design.givens['battery.cells']
  const to = (n: number) => moves.given('battery.cells', n)
  const steps = (...ns: number[]) =>
    ns.reduce((line, n, i) => edited(line, `Cells to ${n}`, to(n), i * 10_000), begun(design))

  test('walk back and forth through every step', () => {
    let line = steps(4, 6, 12)
    const seen = [cells(line)]
    for (let i = 0; i < 4; i++) seen.push(cells((line = undone(line))))
    expect(seen).toEqual([12, 6, 4, 8, 8])
    for (let i = 0; i < 4; i++) seen.push(cells((line = redone(line))))
    expect(seen.slice(5)).toEqual([4, 6, 12, 12])
    expect(line.design).toEqual(steps(4, 6, 12).design)
  })
  test('an edit after an undo closes the way forward', () => {
    const line = edited(undone(steps(4, 6)), 'Cells to 5', to(5), 1e6)
    expect(redone(line)).toBe(line)
    expect(cells(undone(line))).toBe(4)
  })
  test('typing on in one field is one step, after a pause or in another field a new one', () => {
    const typed = (wait: number, label: string) =>
      edited(edited(begun(design), 'Cells', to(1), 100), label, to(12), 100 + wait)
    expect(cells(undone(typed(300, 'Cells')))).toBe(8)
    expect(cells(undone(typed(5000, 'Cells')))).toBe(1)
    expect(cells(undone(typed(300, 'Pack')))).toBe(1)
  })
  test('typing on after an undo does not swallow the step', () => {
    const line = undone(edited(begun(design), 'Cells', to(4), 100))
    expect(cells(undone(edited(line, 'Cells', to(6), 200)))).toBe(8)
  })
  test('an edit that changes nothing is no step', () => {
    const line = begun(design)
    expect(edited(line, 'Cells', to(8), 0)).toBe(line)
    expect(edited(line, 'Nothing', (d: Design) => d, 0)).toBe(line)
  })
  test('say what they did, and keep no more than two hundred steps', () => {
    const line = undone(steps(4))
    expect([line.lastEdit, redone(line).lastEdit]).toEqual(['Undo: Cells to 4', 'Redo: Cells to 4'])
    expect(steps(...Array.from({ length: 250 }, (_, i) => i + 20)).past).toHaveLength(200)
  })
})
