import { describe, expect, test } from 'vitest'
import { outside, range, shown, text } from '../src/number'
import quantities from './quantities.json'

describe('numbers for people', () => {
  test.each(quantities as [number, string, number, string][])(
    '%d %s to %d digits is %s, here as on the server',
    (value, unit, digits, written) => {
      expect(text(value, unit, digits)).toBe(written.replace(' ', '\u2009'))
    },
  )

  test('what is not known is a dash, never zero', () => {
    expect(shown(null, 'V')).toEqual({ number: '–', unit: '' })
    expect(shown(NaN, 'V').number).toBe('–')
  })

  test('a range never mixes prefixes', () => {
    expect(range(0.133, 3.25, 'W')).toBe('133\u2009mW … 3.25\u2009W')
    expect(range(22.8, 29.2, 'V')).toBe('22.8 … 29.2\u2009V')
    expect(range(0, 1.83, 'A')).toBe('0 … 1.83\u2009A')
  })

  test('number and unit stand apart by a thin space', () => {
    expect(text(230, 'V')).toBe('230\u2009V')
    expect(text(0.5, '')).toBe('0.5')
  })

  test('what lies beyond its limits is named with them, the limits themselves are allowed', () => {
    expect(outside(1800, 3600, 36e6, 'C_Ah')).toBe('0.5\u2009Ah is outside 1 … 10000\u2009Ah')
    expect(outside(-1, 0, null, 'W')).toBe('-1\u2009W is too little: at least 0\u2009W')
    expect(outside(400, null, 373.15, 'K_abs')).toBe('126.9\u2009°C is too much: at most 100\u2009°C')
    expect([outside(0, 0, 1, ''), outside(1, 0, 1, ''), outside(-9, null, undefined, 'V')]).toEqual(['', '', ''])
  })

  test('every prefix brings a number from one to a thousand', () => {
    for (let e = -11; e <= 9; e++) {
      const s = shown(3.3 * 10 ** e, 'Hz')
      expect(Math.abs(Number(s.number))).toBeGreaterThanOrEqual(1)
      expect(Math.abs(Number(s.number))).toBeLessThan(1000)
    }
  })
})
