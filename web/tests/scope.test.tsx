import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, test } from 'vitest'
import type { ScopeTold, Trace } from '../src/api'
import { Harmonics } from '../src/screens/scope/Harmonics'
import Scope from '../src/screens/scope/Scope'
import {
  across,
  dutyShades,
  FRAME,
  fullScale,
  shareAt,
  stretch,
  tracePath,
  tracesCsv,
  valueAt,
  viewAround,
} from '../src/screens/scope/traces'
import { sampleSheet, serve, show } from './sample'

const PERIOD = 0.02
const BAND = { middle: 122, half: 108 }
const trace = (height: number, samples: number): Trace => {
  const t = Array.from({ length: samples + 1 }, (_, i) => (i / samples) * PERIOD)
  return { t, v: t.map((x) => height * Math.sin((2 * Math.PI * x) / PERIOD)), unit: 'V' }
}
const picture = (over: Partial<ScopeTold> = {}): ScopeTold => ({
  period: PERIOD,
  traces: {
    output: trace(325, 200),
    choke: trace(2, 50),
    node: { t: [0, PERIOD / 2], v: [380, -380], unit: 'V' },
    link: { t: [0, PERIOD], v: [372, 372], unit: 'V' },
    front: { t: [0, PERIOD], v: [2.2, 2.2], unit: 'A' },
    load: trace(3, 40),
  },
  harmonics: [
    { order: 1, output: 325, node: 325 },
    { order: 3, output: 3.25, node: 3 },
    { order: 399, output: 0.0325, node: 100 },
  ],
  carrier_order: 400,
  thd: 0.0123,
  thd_limit: 0.03,
  residue: 0.004,
  ripple: 1.2,
  choke_ripple: 0.4,
  choke_peak: 8.2,
  sampling: 'regular sampling, asymmetric',
  expected_distortion: 0.014,
  dead_time: 400e-9,
  link_ripple: 17.9,
  index: 0.917,
  edges: 800,
  meters: {
    output: { true_rms: 230.1, average: 230.4, peak_scaled: 229.9, peak: 325 },
    node: { true_rms: 301.5, average: 255.2, peak_scaled: 268.7, peak: 380 },
  },
  rectifier: null,
  note: '',
  ...over,
})

describe('traces', () => {
  test('are read at the last sample not after a time', () => {
    const steps: Trace = { t: [0, 1, 2, 2, 3], v: [10, 11, 12, 22, 13], unit: 'V' }
    expect([-1, 0, 0.99, 1, 1.5, 2, 2.9, 9].map((x) => valueAt(steps, x))).toEqual([10, 10, 10, 11, 11, 22, 22, 13])
  })
  test('a place across the drawing and a share of the period are inverse, at every zoom', () => {
    for (const zoom of [1, 4, 16])
      for (const share of [0, 0.25, 0.77, 1]) {
        const view = viewAround(share, zoom)
        expect(shareAt(across(share, view), view)).toBeCloseTo(share, 12)
        expect(across(share, view)).toBeGreaterThanOrEqual(FRAME.left)
        expect(across(share, view)).toBeLessThanOrEqual(FRAME.width - FRAME.right + 1e-9)
      }
  })
  test('the view never leaves the period', () => {
    for (const share of [0, 0.01, 0.5, 0.99, 1]) {
      const { from, zoom } = viewAround(share, 4)
      expect(from).toBeGreaterThanOrEqual(0)
      expect(from + 1 / zoom).toBeLessThanOrEqual(1)
    }
  })
  test('are drawn within their half height, and only as far as the view reaches', () => {
    const points = (zoom: number) => [
      ...tracePath(trace(325, 200), PERIOD, viewAround(0.5, zoom), BAND).matchAll(/[ML]([-\d.]+) ([-\d.]+)/g),
    ]
    expect(points(1)).toHaveLength(201)
    expect(points(16).length).toBeLessThan(25)
    const heights = points(1).map((m) => Number(m[2]))
    expect(Math.max(...heights) - Math.min(...heights)).toBeCloseTo((2 * 108) / 1.12, 0)
  })
  test('a trace that is zero throughout is a line, not a gap', () => {
    expect(tracePath({ t: [0, PERIOD], v: [0, 0], unit: 'A' }, PERIOD, viewAround(0, 1), BAND)).not.toContain('NaN')
  })
  test('full scale leaves room over the peak of either sign', () => {
    expect(fullScale({ t: [0, 1], v: [3, -8], unit: 'V' })).toBeCloseTo(8.96)
  })
  test('as values have one row a sample of the output, under a heading with units', () => {
    const rows = tracesCsv(picture()).split('\n')
    expect(rows).toHaveLength(1 + 201)
    expect(rows[0]).toBe('time s,bridge node V,choke A,link V,front end A,load A,output V')
    expect(rows[51]!.split(',').map(Number)).toEqual([
      0.005,
      380,
      expect.closeTo(2, 1),
      372,
      2.2,
      expect.closeTo(3, 1),
      expect.closeTo(325, 6),
    ])
  })
})

describe('the harmonics', () => {
  const heights = (container: HTMLElement) =>
    [...container.querySelectorAll('rect')].map((r) => Number(r.getAttribute('height')))
  test('lose the same height for every decade', () => {
    const { container } = show(<Harmonics p={picture()} limit={0.03} />)
    const [first, third, carrier] = heights(container)
    expect(first! - third!).toBeCloseTo(third! - carrier!, 9)
    expect(screen.getByText('near the 400th')).toBeTruthy()
  })
  test('below the scale are gone, never upside down', () => {
    const harmonics = [
      { order: 1, output: 325, node: 1 },
      { order: 3, output: 1e-9, node: 1 },
    ]
    const { container } = show(<Harmonics p={picture({ harmonics })} limit={0.03} />)
    expect(heights(container)[1]).toBe(0)
  })
})

describe('the scope', () => {
  const sheet = sampleSheet()
  let asked: ReturnType<typeof serve>
  beforeEach(() => {
    asked = serve({ scope: () => picture({ note: 'Rectifier loads are drawn as resistances.' }) })
  })
  const cell = (row: string, column: number) =>
    [
      ...within(screen.getByTestId('readouts'))
        .getByRole('row', { name: new RegExp(`^${row}`) })
        .querySelectorAll('td'),
    ][column]!.textContent

  test('asks for the corner that is looked at, as many points as it draws', async () => {
    show(<Scope />, { sheet, corner: 1 })
    await screen.findByTestId('meters')
    expect(asked[0]!.body).toMatchObject({
      corner: 'high',
      load: 'brief',
      modulation: null,
      sampling: null,
      pixels: 900,
    })
    await userEvent.selectOptions(screen.getByLabelText('Zoom'), '× 4')
    await userEvent.selectOptions(screen.getByLabelText('Modulation'), 'bipolar')
    await waitFor(() => expect(asked.at(-1)!.body).toMatchObject({ modulation: 'bipolar', pixels: 3600 }))
  })
  test('shows distortion against its limit, meters, and what is not drawn', async () => {
    show(<Scope />, { sheet })
    expect((await screen.findByTestId('thd')).textContent).toBe(
      'THD 1.2 % to the 40th, carrier residue 0.40 %. Limit 3.0 %: it holds. The sheet reckons with at most 1.4 %.',
    )
    expect(screen.getByTestId('meters').textContent).toContain('230.1230.4229.9')
    expect(screen.getByText('Rectifier loads are drawn as resistances.')).toBeTruthy()
  })
  test('a rectifier has its current drawn beside the choke, and its crest told', async () => {
    const traces = { ...picture().traces, load: { t: [0, PERIOD / 4, PERIOD], v: [0, 7.1, 0], unit: 'A' } }
    const rectifier = { rms: 2.53, peak: 7.12, watts: 370, crest_factor: 2.81, power_factor: 0.64 }
    serve({ scope: () => picture({ traces, rectifier }) })
    show(<Scope />, { sheet })
    const said = await screen.findByTestId('rectifier')
    expect(said.textContent!.replace(/\s+/g, ' ')).toBe(
      'The rectifiers draw 370 W at 2.53 A rms, peak 7.12 A: crest factor 2.81, power factor 0.64.',
    )
    // Both currents are drawn to one scale, the higher one's.
    expect(screen.getByText('choke, load (dashed), ±7.95 A full height')).toBeTruthy()
    expect(screen.getByTestId('load').getAttribute('d')).toContain('L')
  })
  test('what cannot be drawn is told, and the settings stay to change it back', async () => {
    serve({
      scope: (body) =>
        (body as { load: string }).load === 'none'
          ? new Response(JSON.stringify({ message: 'unknown at this corner' }), { status: 422 })
          : picture(),
    })
    show(<Scope />, { sheet })
    await screen.findByTestId('thd')
    await userEvent.selectOptions(screen.getByLabelText('Load'), 'none')
    expect((await screen.findByRole('alert')).textContent).toBe('unknown at this corner')
    expect(screen.queryByTestId('thd')).toBeNull()
    await userEvent.selectOptions(screen.getByLabelText('Load'), "the brief's")
    expect(await screen.findByTestId('thd')).toBeTruthy()
    expect(screen.queryByRole('alert')).toBeNull()
  })
  test('its cursors walk by key and read the traces', async () => {
    show(<Scope />, { sheet })
    const a = await screen.findByLabelText('Cursor A')
    expect(cell('Output, V', 1)).toBe('325.0')
    for (let i = 0; i < 10; i++) fireEvent.keyDown(a, { key: 'ArrowRight', shiftKey: true })
    expect(Number(a.getAttribute('aria-valuenow'))).toBeCloseTo(0.45)
    expect(Number(cell('Output, V', 1))).toBeCloseTo(325 * Math.sin(0.9 * Math.PI), 0)
    for (let i = 0; i < 60; i++) fireEvent.keyDown(a, { key: 'ArrowLeft', shiftKey: true })
    expect(Number(a.getAttribute('aria-valuenow'))).toBe(0)
  })
})

describe('the bridge node over a whole period', () => {
  /** Pulses of a sine's share in each of `count` slices, `levels` high; both sides of every edge are sampled. */
  const pulses = (count: number, low: (phase: number) => number, share: (phase: number) => number): Trace => {
    const t: number[] = []
    const v: number[] = []
    for (let k = 0; k < count; k++) {
      const phase = ((k + 0.5) / count) * 2 * Math.PI
      const [from, wide] = [(k / count) * PERIOD, PERIOD / count]
      const high = Math.sin(phase) < 0 && low(phase) === 0 ? -300 : 300
      for (const [at, level] of [
        [0, high],
        [share(phase), high],
        [share(phase), low(phase)],
        [1, low(phase)],
      ] as const) {
        t.push(from + at * wide)
        v.push(level)
      }
    }
    return { t, v, unit: 'V' }
  }
  const sum = (t: Trace, columns: number) => dutyShades(t, PERIOD, columns)

  test('three levels: each shade is the share of the time off zero, on its own side', () => {
    const shades = sum(
      pulses(
        400,
        () => 0,
        (phase) => 0.9 * Math.abs(Math.sin(phase)),
      ),
      50,
    )
    shades.forEach((shade, k) => {
      const phase = ((k + 0.5) / 50) * 2 * Math.PI
      expect(shade.share).toBeCloseTo(0.9 * Math.abs(Math.sin(phase)), 1)
      expect(Math.sin(phase) > 0 ? shade.bottom : shade.top).toBe(0)
      expect(Math.sin(phase) > 0 ? shade.top : -shade.bottom).toBe(300)
    })
  })

  test('two levels: the share above zero, over the whole height', () => {
    const shades = sum(
      pulses(
        400,
        () => -300,
        (phase) => 0.5 + 0.4 * Math.sin(phase),
      ),
      50,
    )
    shades.forEach((shade, k) => {
      expect(shade.share).toBeCloseTo(0.5 + 0.4 * Math.sin(((k + 0.5) / 50) * 2 * Math.PI), 1)
      expect([shade.bottom, shade.top]).toEqual([-300, 300])
    })
  })

  test('the inset shows what stands about the cursor, and says how wide it is', () => {
    const t = pulses(
      400,
      () => 0,
      () => 0.5,
    )
    const box = { left: 10, top: 20, width: 200, height: 60 }
    const { path, seconds } = stretch(t, PERIOD / 4, box)
    expect(seconds).toBeCloseTo((8 * PERIOD) / 400, 6)
    const numbers = path.match(/[\d.]+/g)!.map(Number)
    expect(Math.min(...numbers.filter((_, i) => i % 2 === 0))).toBe(10)
    expect(Math.max(...numbers.filter((_, i) => i % 2 === 0))).toBe(210)
    expect(stretch(t, PERIOD, box).seconds).toBeCloseTo((8 * PERIOD) / 400, 6)
  })
})
