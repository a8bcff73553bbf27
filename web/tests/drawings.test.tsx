import { renderToStaticMarkup } from 'react-dom/server'
import { describe, expect, test } from 'vitest'
import type { Verdict, WindingCard } from '../src/api'
import { Winding } from '../src/pictures/Winding'
import { conductor } from '../src/ui/line/drawn'
import { Mark } from '../src/ui/Mark'
import { numbered, Prose, Symbol } from '../src/ui/Number'
import type { Series } from '../src/api/schema'
import { Plot } from '../src/ui/Plot'

const drawn = (element: React.ReactElement) => renderToStaticMarkup(element)
const numbers = (markup: string, attribute: string) =>
  [...markup.matchAll(new RegExp(` ${attribute}="([-\\d.]+)"`, 'g'))].map((m) => Number(m[1]))

describe('the conductor', () => {
  test('grows by the same width for every decade of current, whatever its direction', () => {
    const [one, ten, hundred] = [9, 99, 999].map((i) => conductor(i))
    expect(ten! - one!).toBeCloseTo(hundred! - ten!, 12)
    expect(conductor(-40)).toBe(conductor(40))
  })
  test('is still there without current, and where the current is unknown', () => {
    expect(conductor(0)).toBeGreaterThan(0)
    expect(conductor(null)).toBe(conductor(0))
  })
})

describe('a mark', () => {
  const all: Verdict[] = ['holds', 'tight', 'fails', 'unknown']
  test.each(all)('of %s says so to whoever cannot see it', (verdict) => {
    expect(drawn(<Mark verdict={verdict} />)).toContain(`aria-label="${verdict}"`)
  })
  test('differs by shape, not by colour alone', () => {
    const shapes = all.map((verdict) =>
      drawn(<Mark verdict={verdict} />)
        .replace(/var\(--(hold|tight|fail|slate)\)/g, 'tone')
        .replace(/aria-label="\w+"/, ''),
    )
    expect(new Set(shapes).size).toBe(4)
  })
  test('of a failure is hollow and of an unknown dotted', () => {
    expect(drawn(<Mark verdict="fails" />)).toContain('fill="var(--sheet)"')
    expect(drawn(<Mark verdict="unknown" />)).toContain('stroke-dasharray')
    expect(drawn(<Mark verdict="holds" />)).not.toContain('stroke-dasharray')
  })
})

const PLAIN = { limits: [], marks: [], y_from: null, y_to: null, log: false, log_y: false }

describe('a plot', () => {
  const rising: Series = { name: 'bank', x: [0, 1, 2, 3], y: [0, 10, 20, 30], tone: 'copper', dashed: false }
  const plot = (over: Partial<Parameters<typeof Plot>[0]> = {}) =>
    drawn(<Plot {...PLAIN} title="A curve" series={[rising]} x_name="time" x_unit="s" y_unit="V" {...over} />)
  const points = (markup: string) =>
    [...markup.matchAll(/[ML]([-\d.]+),([-\d.]+)/g)].map((m) => [Number(m[1]), Number(m[2])] as const)

  test('keeps every point inside its frame, higher values higher', () => {
    const found = points(plot())
    expect(found).toHaveLength(4)
    for (const [x, y] of found) {
      expect(x).toBeGreaterThanOrEqual(56)
      expect(x).toBeLessThanOrEqual(360)
      expect(y).toBeGreaterThan(0)
      expect(y).toBeLessThan(200 - 34 + 1)
    }
    expect(found.map(([, y]) => y)).toEqual([...found.map(([, y]) => y)].sort((a, b) => b - a))
  })
  test('breaks the curve where a value is unknown', () => {
    const markup = plot({ series: [{ ...rising, y: [0, null, 20, 30] }] })
    expect(markup.match(/d="M[^"]*M/)).not.toBeNull()
    expect(points(markup)).toHaveLength(3)
  })
  test('on decades what is not above nothing has no place, and names lie on no other', () => {
    const marks = [
      { x: 0, y: 20, name: 'at once' },
      { x: 1, y: 20, name: 'short is off' },
      { x: 1.05, y: 20.5, name: 'starts' },
    ]
    const markup = plot({ log: true, log_y: true, marks, limits: [{ value: 0, name: 'none' }] })
    expect(markup).not.toContain('NaN')
    expect(markup).not.toContain('at once')
    expect(points(markup)).toHaveLength(3)
    const y = (name: string) => Number(new RegExp(`y="([-\\d.]+)"[^>]*>${name}<`).exec(markup)![1])
    expect(Math.abs(y('short is off') - y('starts'))).toBeGreaterThanOrEqual(13)
  })
  test('has units on its axes, and names its limits', () => {
    const markup = plot({ limits: [{ value: 29.2, name: 'source' }], marks: [{ x: 2, y: 20, name: 'close' }] })
    expect(markup).toMatch(/\d V<\/text>/)
    expect(markup).toMatch(/\d m?s<\/text>/)
    expect(markup).toContain('source')
    expect(markup).toContain('close')
  })
  test('holds what is marked and limited within view', () => {
    const markup = plot({ limits: [{ value: 90, name: 'far' }] })
    for (const y of numbers(markup, 'y1')) expect(y).toBeGreaterThanOrEqual(0)
  })
  test('shows a share as per cent', () => {
    expect(plot({ y_unit: '', series: [{ ...rising, y: [0.5, 0.6, 0.7, 0.8] }] })).toMatch(/\d %<\/text>/)
  })
  test('has ticks on round numbers, a handful of them', () => {
    const labels = [
      ...plot({ series: [{ ...rising, y: [0, 317, 642, 987] }] }).matchAll(/text-anchor="end">(-?[\d.]+) k?V</g),
    ].map((m) => Number(m[1]))
    expect(labels.length).toBeGreaterThanOrEqual(3)
    expect(labels.length).toBeLessThanOrEqual(7)
  })
  test('says so where there is nothing to draw', () => {
    expect(plot({ series: [] })).toContain('unknown')
    expect(plot({ series: [{ ...rising, y: [null, null, null, null] }] })).toContain('unknown')
  })
  test('of one constant value still has a scale', () => {
    const markup = plot({ series: [{ ...rising, y: [5, 5, 5, 5] }] })
    expect(markup).not.toContain('NaN')
    expect(points(markup).every(([, y]) => Number.isFinite(y))).toBe(true)
  })
})

describe('the winding window', () => {
  const wire = (name: string, turns: number, strands: number, diameter: number) => ({
    name,
    turns,
    strands,
    diameter,
    length: 1,
    resistance: 0.01,
    mass: 0.01,
    start: '',
    finish: '',
    note: '',
  })
  const card: WindingCard = {
    place: 'transformer',
    title: 'Transformer',
    halves: 2,
    core: { area: 2e-4, window: 180e-6, breadth: 26e-3, mean_turn: 0.1 },
    order: [
      wire('primary, first part', 4, 11, 0.5e-3),
      wire('secondary', 76, 1, 0.5e-3),
      wire('primary, second part', 4, 10, 0.5e-3),
    ],
    interfaces: 2,
    insulation: 0.15e-3,
    expected: {},
    test: '',
    unknown: [],
  }
  const circles = (markup: string) =>
    [...markup.matchAll(/<circle cx="([\d.]+)" cy="([\d.]+)" r="([\d.]+)"/g)].map(
      (m) => m.slice(1).map(Number) as [number, number, number],
    )

  test('draws every strand of both windings once', () => {
    expect(circles(drawn(<Winding card={card} />))).toHaveLength(2 * 4 * 21 + 76)
  })
  test('draws no strand through another and none beyond the breadth', () => {
    const all = circles(drawn(<Winding card={card} />))
    for (const [i, [x, y, r]] of all.entries()) {
      expect(x - r).toBeGreaterThanOrEqual(-1e-9)
      expect(x + r).toBeLessThanOrEqual(26 + 1e-9)
      for (const [u, v, s] of all.slice(i + 1)) expect(Math.hypot(x - u, y - v)).toBeGreaterThanOrEqual(r + s - 1e-9)
    }
  })
  test('names both windings and the window in millimetres', () => {
    const markup = drawn(<Winding card={card} />)
    expect(markup).toContain('sec. 76')
    expect(markup).toContain('26.0 mm × 6.9 mm')
  })
})

describe('symbols and values', () => {
  test.each([
    ['V_{DS}', 'V', 'DS'],
    [String.raw`\Delta I_{pp}`, 'Δ I', 'pp'],
    [String.raw`R_\mathrm{hot}`, 'R', 'hot'],
    [String.raw`\eta`, 'η', ''],
    [String.raw`\hat V_\mathrm{link}`, 'V\u0302', 'link'],
    [String.raw`\check V_\mathrm{link}`, 'V\u030c', 'link'],
  ])('%s has a real subscript', (tex, base, sub) => {
    const markup = drawn(<Symbol tex={tex} />)
    expect(
      markup
        .replace(/<sub>.*<\/sub>/, '')
        .replace(/<[^>]+>/g, '')
        .replace(/\s+/g, ' ')
        .trim(),
    ).toBe(base)
    expect(markup.match(/<sub>(.*)<\/sub>/)?.[1] ?? '').toBe(sub)
  })
  test('a ratio keeps both its sides', () => {
    expect(drawn(<Symbol tex="N_s/N_p" />).replace(/<[^>]+>/g, '')).toBe('Ns/Np')
  })
  test('quantities within a sentence have real subscripts, and nothing else of it changes', () => {
    const markup = drawn(<Prose>From V_p·D and N_sec: the drop, V_drop.</Prose>)
    expect([...markup.matchAll(/<sub>(\w+)<\/sub>/g)].map((m) => m[1])).toEqual(['p', 'sec', 'drop'])
    expect(markup.replace(/<[^>]+>/g, '')).toBe('From Vp·D and Nsec: the drop, Vdrop.')
  })
  test('a value carries its unit, an unknown one none', () => {
    expect(drawn(numbered(4700, 'Ω'))).toContain('kΩ')
    expect(drawn(numbered(null, 'Ω'))).not.toContain('Ω')
    expect(drawn(numbered(3, '', 3, true))).toContain('pinned')
  })
})
