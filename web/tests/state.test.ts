import { beforeEach, describe, expect, test, vi } from 'vitest'
import type { CheckValue, Design, Sheet, Verdict } from '../src/api'
import { changes } from '../src/state/changes'
import { at, cornerVerdict, worse } from '../src/state/figures'
import { forget, keep, kept } from '../src/state/kept'

const check = (verdicts: Verdict[]): CheckValue => ({
  margin: verdicts.map(() => 1),
  verdicts,
  verdict: verdicts.reduce(worse),
  worst: 'a',
  fail: 1,
  hold: 1.1,
  harm: 'none',
  sentence: '',
  no_demand: false,
})
const sheet = (over: Partial<Sheet> = {}): Sheet => ({
  corners: [
    { id: 'a', title: 'a' },
    { id: 'b', title: 'b' },
  ],
  figures: { 't.primary_turns': { values: [4] }, 't.flux': { values: [0.1, 0.2] } },
  picks: {
    't.core': {
      part: 'E1',
      quantity: 1,
      record: {},
      fits: true,
      pinned: false,
      tightest: { need: '', margin: 1 },
      runners_up: [],
    },
  },
  checks: { 't.flux': check(['holds', 'tight']) },
  passes: { outer: 1, inner: 1, alternating: [] },
  ...over,
})

describe('what an edit changed', () => {
  test('nothing, when nothing moved', () => {
    expect(changes(sheet(), sheet())).toEqual({ list: [], former: {} })
  })
  test('verdicts, parts and turns that moved, each with its former state', () => {
    const after = sheet({
      figures: { 't.primary_turns': { values: [3] }, 't.flux': { values: [0.1, 0.2] } },
      checks: { 't.flux': check(['holds', 'fails']) },
    })
    after.picks['t.core'] = { ...after.picks['t.core']!, part: 'E2' }
    const { list, former } = changes(sheet(), after)
    expect(list).toEqual([
      { key: 't.flux', kind: 'verdict', from: 'tight', to: 'fails' },
      { key: 't.core', kind: 'part', from: '1 × E1', to: '1 × E2' },
      { key: 't.primary_turns', kind: 'number', from: '4', to: '3' },
    ])
    expect(former['t.primary_turns']).toBe(4)
  })
  test('a value that became unknown has moved', () => {
    expect(
      changes(sheet(), sheet({ figures: { 't.primary_turns': { values: [null] } } })).former['t.primary_turns'],
    ).toBe(4)
  })
})

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
    expect(cornerVerdict(sheet(), 0)).toBe('holds')
    expect(cornerVerdict(sheet(), 1)).toBe('tight')
  })
})

describe('what was typed and not yet saved', () => {
  const design = { title: 'x' } as Design
  beforeEach(() => {
    const shelf = new Map<string, string>()
    vi.stubGlobal('localStorage', {
      getItem: (k: string) => shelf.get(k) ?? null,
      setItem: (k: string, v: string) => shelf.set(k, v),
      removeItem: (k: string) => shelf.delete(k),
    })
  })
  test('is kept for the version it began from, and only for that', () => {
    keep(1, 5, design)
    expect(kept(1, 5)).toEqual(design)
    expect(kept(1, 6)).toBeNull()
    expect(kept(2, 5)).toBeNull()
    forget(1)
    expect(kept(1, 5)).toBeNull()
  })
  test('a broken or forbidden storage stops nothing', () => {
    vi.stubGlobal('localStorage', {
      getItem: () => '{',
      setItem: () => {
        throw new Error('full')
      },
      removeItem: () => {
        throw new Error('no')
      },
    })
    expect(() => keep(1, 1, design)).not.toThrow()
    expect(kept(1, 1)).toBeNull()
    expect(() => forget(1)).not.toThrow()
  })
})
