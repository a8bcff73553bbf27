import { describe, expect, test } from 'vitest'
import type { Sheet } from '../src/api'
import { changes } from '../src/state/changes'
import {
  at,
  checksAt,
  checksOf,
  cornerVerdict,
  marginAt,
  placeVerdict,
  telling,
  tightest,
  worked,
  worse,
  worstFirst,
} from '../src/state/figures'
import { check, judged, pick, place, sampleDesign, sampleMeta, sampleSheet } from './sample'

describe('reading a sheet', () => {
  test('a single value speaks for every corner', () => {
    expect(at({ values: [7] }, 1)).toBe(7)
    expect(at({ values: [7, null] }, 1)).toBeNull()
    expect(at(undefined, 0)).toBeNull()
  })
  test('the worst verdict wins, and unknown never shows as holding', () => {
    expect(worse('unknown', 'holds')).toBe('unknown')
    expect(worse('tight', 'unknown')).toBe('unknown')
    expect(worse('fails', 'unknown')).toBe('fails')
    expect(cornerVerdict(sampleSheet(), 0)).toBe('holds')
    expect(cornerVerdict(sampleSheet(), 1)).toBe('tight')
  })
  test('a margin is that of the corner, or the only one, or none', () => {
    const both = judged(['holds', 'tight'])
    expect([marginAt(both, 0), marginAt(both, 1), marginAt({ ...both, margin: [2] }, 1)]).toEqual([1.5, 1.1, 2])
    expect(marginAt({ ...both, margin: [null, 1] }, 0)).toBeNull()
  })
  test('the tightest check is found by what each needs to hold, one without demand last', () => {
    const wide = judged(['holds'], { margin: [1.2], hold: 1 })
    const narrow = judged(['tight'], { margin: [1.3], hold: 1.5 })
    const idle = judged(['holds'], { margin: [null] })
    expect(tightest([idle, wide, narrow], 0)).toBe(narrow)
    expect(tightest([idle, wide], 0)).toBe(wide)
  })
  test('worked figures are those with a formula, in the order of the sheet', () => {
    expect(worked(sampleMeta(), 'front')).toEqual(['front.peak_voltage', 'front.turns'])
    expect(worked(sampleMeta(), 'battery')).toEqual([])
  })
})

describe('what the line shows of a stage', () => {
  test('the worst of its own checks, at the corner that is looked at or over all', () => {
    const verdicts = [0, 1, undefined].map((corner) => placeVerdict(sampleMeta(), sampleSheet(), 'front', corner))
    expect(verdicts).toEqual(['holds', 'tight', 'tight'])
    expect(placeVerdict(sampleMeta(), sampleSheet(), 'battery')).toBe('holds')
  })
  test('a part that does not fit is never shown as holding', () => {
    const misfit = sampleSheet({ picks: { 'front.switch': pick('N40-2', { fits: false }) } })
    expect(placeVerdict(sampleMeta(), misfit, 'front', 0)).toBe('tight')
  })
  const told = (template: string, design = sampleDesign(), sheet: Sheet = sampleSheet()) =>
    telling(sampleMeta(), sheet, design.choices, place('front', { telling: template }), 1)
  test('its template with parts, choices in words and figures with their units', () => {
    expect(told('{front.switch} · {front.peak_voltage}')).toBe('2×N100-8 · 90\u2009V')
    expect(told('{battery.cells} × {battery.chemistry}')).toBe('8 × LiFePO4')
    expect(told('{battery.chemistry}', sampleDesign({ choices: { 'battery.chemistry': 'lead' } }))).toBe('Lead-acid')
  })
  test('one part stands without a number, what is unknown as a dash', () => {
    const one = sampleSheet({ picks: { 'front.switch': pick('N100-8', { quantity: 1 }) } })
    expect(told('{front.switch}', undefined, one)).toBe('N100-8')
    one.figures['front.turns'] = { values: [null] }
    expect(told('{front.turns} : {battery.cells}', undefined, one)).toBe('– : 8')
  })
})

describe('the checks', () => {
  const meta = sampleMeta({
    checks: {
      'front.voltage': check('front.peak_voltage', 'front.rating'),
      'front.heat': check('front.rise', 'front.allowed'),
      'front.current': check('front.peak_current', 'front.rating'),
      'link.volts': check('link.crest', 'link.rating'),
    },
  })
  test('of a figure are found from either side', () => {
    expect(checksOf(meta, 'front.peak_voltage')).toEqual(['front.voltage'])
    expect(checksOf(meta, 'front.rating')).toEqual(['front.voltage', 'front.current'])
    expect(checksOf(meta, 'front.nothing')).toEqual([])
  })
  test('of a place come the worst first, else in their own order', () => {
    const sheet = sampleSheet({
      checks: {
        'front.voltage': judged(['holds']),
        'front.heat': judged(['fails']),
        'front.current': judged(['holds']),
      },
    })
    expect(worstFirst(sheet, checksAt(meta, 'front'))).toEqual(['front.heat', 'front.voltage', 'front.current'])
    expect(worstFirst(sheet, checksAt(meta, 'link'))).toEqual([])
  })
})

describe('what an edit changed', () => {
  const before = sampleSheet({
    figures: { 'front.turns': { values: [4] }, 'front.peak_voltage': { values: [0.1, 0.2] } },
  })
  const between = (a: Sheet, b: Sheet) => changes(sampleMeta(), a, b)
  const after = (over: Partial<Sheet>) => ({ ...before, ...over })
  test('nothing, when nothing moved by more than rounding shows', () => {
    expect(between(before, before)).toEqual({ list: [], former: {} })
    const hair = after({ figures: { ...before.figures, 'front.turns': { values: [4.0001] } } })
    expect(between(before, hair)).toEqual({ list: [], former: {} })
  })
  test('verdicts, parts and turns that moved, each with its former state', () => {
    const moved = after({
      figures: { ...before.figures, 'front.turns': { values: [3] } },
      checks: { 'front.voltage': judged(['holds', 'fails']) },
      picks: { 'front.switch': pick('N150-9') },
    })
    const { list, former } = between(before, moved)
    expect(list).toEqual([
      { key: 'front.voltage', kind: 'verdict', from: 'tight', to: 'fails' },
      { key: 'front.switch', kind: 'part', from: '2 × N100-8', to: '2 × N150-9' },
      { key: 'front.turns', kind: 'number', from: '4', to: '3' },
    ])
    expect(former['front.turns']).toBe(4)
  })
  test('a value that became unknown has moved', () => {
    const lost = after({ figures: { 'front.turns': { values: [null] } } })
    expect(between(before, lost).former['front.turns']).toBe(4)
  })
})
