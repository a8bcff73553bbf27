import { describe, expect, test } from 'vitest'
import { range, shown, text } from '../src/number'

describe('numbers for people', () => {
  test.each([
    [4700, 'Ω', '4.7', 'kΩ'],
    [2.2e-9, 'F', '2.2', 'nF'],
    [330e-6, 'F', '330', 'µF'],
    [0.71e-3, 'm', '0.71', 'mm'],
    [1.26e-6, 'm^2', '1.26', 'mm²'],
    [318.15, 'K_abs', '45', '°C'],
    [4.5e6, 'A/m^2', '4.5', 'A/mm²'],
    [720000, 'C_Ah', '200', 'Ah'],
    [60e-9, 'C', '60', 'nC'],
    [0.12, 'kg', '120', 'g'],
    [1.5, 'kg', '1.5', 'kg'],
    [0, 'V', '0', 'V'],
    [0.9155, '', '0.9155', ''],
    [16957, 's', '4.71', 'h'],
    [-325.27, 'V', '-325', 'V'],
    [999.9, 'V', '1', 'kV'],
  ])('%d %s is shown as %s %s', (value, unit, number, shownUnit) => {
    expect(shown(value, unit)).toEqual({ number, unit: shownUnit })
  })

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

  test('every prefix brings a number from one to a thousand', () => {
    for (let e = -11; e <= 9; e++) {
      const s = shown(3.3 * 10 ** e, 'Hz')
      expect(Math.abs(Number(s.number))).toBeGreaterThanOrEqual(1)
      expect(Math.abs(Number(s.number))).toBeLessThan(1000)
    }
  })
})
