import { describe, expect, test } from 'vitest'
import { apart, clear } from '../src/pictures/apart'

describe('labels side by side', () => {
  test('stay where there is room', () => {
    expect(apart([10, 40, 90], 14)).toEqual([10, 40, 90])
  })
  test('spread about their middle where there is none', () => {
    expect(apart([20, 22, 24], 14)).toEqual([8, 22, 36])
  })
  test('of any positions are in order, apart, and no other such arrangement lies nearer', () => {
    let seed = 7
    const next = () => (seed = (seed * 16807) % 2147483647) / 2147483647
    for (let trial = 0; trial < 200; trial++) {
      const at = Array.from({ length: 2 + Math.floor(next() * 6) }, () => next() * 80).sort((a, b) => a - b)
      const found = apart(at, 14)
      const cost = (ys: number[]) => ys.reduce((sum, y, i) => sum + (y - at[i]!) ** 2, 0)
      found.slice(1).forEach((y, i) => expect(y - found[i]!).toBeGreaterThanOrEqual(14 - 1e-9))
      // A cluster or a single label moved a little, still apart, is never better.
      for (let tries = 0; tries < 20; tries++) {
        const other = found.map((y) => y + (next() - 0.5) * 0.2)
        if (other.slice(1).every((y, i) => y - other[i]! >= 14)) expect(cost(other)).toBeGreaterThanOrEqual(cost(found))
      }
    }
  })
})

describe('a label beside upright lines', () => {
  test('stands where it is where none crosses it', () => {
    expect(clear(10, 30, [])).toBe(10)
    expect(clear(10, 30, [4, 41])).toBe(10)
  })
  test('begins behind the last of those that would cross it, one after the other', () => {
    expect(clear(10, 30, [38, 41, 90])).toBe(45)
    expect(clear(10, 30, [41, 38])).toBe(45)
    expect(clear(10, 30, [12, 50])).toBe(16)
  })
})
