/** Numbers for people: one place that knows unit, prefix and digits. Values are SI; the table of units is the server's. */
import units from './api/units.json'

const SCALES = units.scales as unknown as Record<string, [string, number, number]>
const PLAIN = units.plain as Record<string, string>
/** What an optional part that is left out counts as: a resistor across something is open. */
const NOT_FITTED = units.not_fitted as Record<string, number>
const PREFIXES = units.prefixes as unknown as [number, string][]

export interface Shown {
  number: string
  unit: string
}

function digitsOf(value: number, digits: number): string {
  if (value === 0) return '0'
  const text = Number(value.toPrecision(digits))
  return Math.abs(text) >= 1e7 || Math.abs(text) < 1e-4 ? text.toExponential() : String(text)
}

export function shown(value: number | null | undefined, unit: string, digits = 3): Shown {
  if (value === null || value === undefined || Number.isNaN(value)) return { number: '–', unit: '' }
  if (unit === 'kg' && Math.abs(value) >= 1) return { number: digitsOf(value, digits), unit: 'kg' }
  if (unit === 's' && Math.abs(value) >= 600) return { number: digitsOf(value / 3600, digits), unit: 'h' }
  if (unit === 'm' && Math.abs(value) >= 1e-5 && Math.abs(value) < 1)
    return { number: digitsOf(value * 1e3, digits), unit: 'mm' }
  if (value >= (NOT_FITTED[unit] ?? Infinity)) return { number: 'not', unit: 'fitted' }
  const scale = SCALES[unit]
  if (scale)
    return { number: digitsOf((value - scale[2]) / scale[1], digits + (unit === 'K_abs' ? 1 : 0)), unit: scale[0] }
  if (unit in PLAIN) return { number: digitsOf(value, digits + 1), unit: PLAIN[unit] ?? '' }
  return engineering(value, unit.replace('^2', '²'), digits)
}

function engineering(value: number, unit: string, digits: number): Shown {
  if (value === 0 || Math.abs(value) < 1e-18) return { number: '0', unit }
  const rounded = Number(value.toPrecision(digits))
  const [factor, prefix] = PREFIXES.find(([f]) => Math.abs(rounded) >= f * 0.9999999) ?? [1e-12, 'p']
  return { number: String(Number((rounded / factor).toPrecision(digits))), unit: prefix + unit }
}

/** A range: the unit once where both ends share it, else with each. */
export function range(low: number, high: number, unit: string): string {
  const [a, b] = [shown(low, unit), shown(high, unit)]
  return a.unit === b.unit || low === 0
    ? `${a.number} … ${text(high, unit)}`
    : `${text(low, unit)} … ${text(high, unit)}`
}

export function text(value: number | null | undefined, unit: string, digits = 3): string {
  const s = shown(value, unit, digits)
  return s.unit ? `${s.number}\u2009${s.unit}` : s.number
}

/** What is wrong with a value beyond its limits; empty where it is allowed. */
export function outside(value: number, low: number | null | undefined, high: number | null | undefined, unit: string) {
  const [least, most] = [low ?? -Infinity, high ?? Infinity]
  if (value >= least && value <= most) return ''
  if (most === Infinity) return `${text(value, unit)} is too little: at least ${text(least, unit)}`
  if (least === -Infinity) return `${text(value, unit)} is too much: at most ${text(most, unit)}`
  return `${text(value, unit)} is outside ${range(least, most, unit)}`
}
