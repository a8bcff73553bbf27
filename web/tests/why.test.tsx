import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, test, vi } from 'vitest'
import type { Sought, Swing, WhyTold } from '../src/api'
import { change, Sensitivity } from '../src/screens/why/Sensitivity'
import { WhyPanel, type Mode } from '../src/screens/why/WhyPanel'
import { linesOf, looser, texOf } from '../src/ui/Tex'
import { sampleDesign, sampleSheet, serve, show } from './sample'

const near = (key: string, pinned = false) => ({
  key,
  title: key.split('.')[1]!,
  symbol: '',
  value: 1,
  text: '1 V',
  kind: 'build',
  pinned,
})
const why = (over: Partial<WhyTold> = {}): WhyTold => ({
  key: 'front.peak_voltage',
  title: 'Peak voltage',
  sentence: 'The highest the switch sees.',
  source: 'handbook 4.1',
  symbol: 'V_{DS}',
  formula: 'k_V V_b',
  numbers: '2 \\cdot 30',
  value: 60,
  text: '60 V',
  corner: 'high',
  binds: true,
  comes_from: [near('battery.cells')],
  carries_on_to: [],
  pinned: false,
  reason: '',
  computed: '',
  empirical: false,
  cause: '',
  movable: [
    { key: 'battery.cells', title: 'Cells', place: 'battery' },
    { key: 'output.voltage', title: 'Voltage', place: 'output' },
  ],
  ...over,
})
const bar = (key: string, held: number, over: Partial<Swing> = {}): Swing => ({
  key,
  title: key.split('.')[1]!,
  held,
  sized: null,
  jumped: '',
  step: '+10 %',
  kelvin: false,
  ...over,
})

const select = vi.fn()
const panel = (
  mode: Mode,
  over: Partial<WhyTold> = {},
  seek: (body: unknown) => unknown = () => null,
  setMode = vi.fn(),
) => {
  const asked = serve({
    why: () => why(over),
    sensitivity: () => [bar('output.voltage', 0.1), bar('battery.cells', 0.04)],
    seek,
  })
  const onClose = vi.fn()
  const props = { figure: 'front.peak_voltage', select, mode, setMode, onClose }
  return { asked, setMode, ...show(<WhyPanel {...props} />, { corner: 1 }) }
}

describe('why', () => {
  test('asks of the corner that is looked at, and tells value, corner, sentence and source', async () => {
    const { asked } = panel('why')
    const told = (await screen.findByTestId('why')).textContent
    expect(told).toContain('Why peak voltage is 60 V')
    expect(told).toContain('Speaks for highest full, which binds.')
    expect(told).toContain('The highest the switch sees. ')
    expect(told).toContain('handbook 4.1')
    expect(asked[0]).toMatchObject({ path: 'why', body: { key: 'front.peak_voltage', corner: 'high' } })
  })
  test('walks to a neighbour, and says where the walk ends', async () => {
    panel('why', { comes_from: Array.from({ length: 11 }, (_, i) => near(`battery.f${i}`, i === 0)) })
    const first = await screen.findByRole('button', { name: 'f0' })
    expect(first.className).toContain('pinned')
    await userEvent.click(first)
    expect(select).toHaveBeenLastCalledWith('battery.f0')
    expect(screen.getByText('and 2 more')).toBeTruthy()
    expect(screen.getByText('Nothing further.')).toBeTruthy()
  })
  test('gives the cause of what is unknown, and what a pin stands against', async () => {
    panel('why', { cause: 'The source cannot deliver it.', pinned: true, reason: 'at hand', computed: '58 V' })
    expect(await screen.findByText('The source cannot deliver it.')).toBeTruthy()
    expect(screen.getByText(/Pinned: “at hand” · its own formula gives 58 V/)).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Pin it …' })).toBeNull()
  })
  test('a server that refuses is quoted', async () => {
    serve({})
    show(<WhyPanel figure="front.turns" select={select} mode="why" setMode={vi.fn()} onClose={vi.fn()} />)
    expect(await screen.findByText('no why')).toBeTruthy()
  })
  test('opens and closes pin and goal seek', async () => {
    const { setMode } = panel('pin')
    await userEvent.click(await screen.findByRole('button', { name: 'Pin it …' }))
    expect(setMode).toHaveBeenLastCalledWith('why')
    await userEvent.click(screen.getByRole('button', { name: 'Make it equal to …' }))
    expect(setMode).toHaveBeenLastCalledWith('seek')
  })
})

describe('a pin', () => {
  test('holds the figure at what was typed, with its reason', async () => {
    const asked = serve({ why: () => why(), sensitivity: () => [], parse: () => ({ value: 72 }) })
    const setMode = vi.fn()
    const { last } = show(
      <WhyPanel figure="front.peak_voltage" select={select} mode="pin" setMode={setMode} onClose={vi.fn()} />,
    )
    const field = await screen.findByLabelText('Hold it at')
    await userEvent.clear(field)
    await userEvent.type(field, '72')
    await userEvent.type(screen.getByLabelText('Because'), 'measured')
    await vi.waitFor(() => expect(asked.at(-1)).toMatchObject({ path: 'parse', body: { text: '72', unit: 'V' } }))
    await userEvent.click(screen.getByRole('button', { name: 'Pin' }))
    expect(last().label).toBe('Pinned Peak voltage')
    expect(last().design.pins['front.peak_voltage']).toMatchObject({ value: 72, reason: 'measured' })
    expect(setMode).toHaveBeenLastCalledWith('why')
  })
})

describe('goal seek', () => {
  const sought = (over: Partial<Sought>): Sought => ({
    key: 'output.voltage',
    value: 221.5,
    reaches: 58,
    exact: true,
    below: null,
    above: null,
    ...over,
  })
  const seek = async (answer: (body: unknown) => unknown) => {
    const opened = panel('seek', {}, answer)
    await screen.findByText('What moves it most')
    await userEvent.type(await screen.findByLabelText('Make peak voltage equal to'), '58 V')
    await userEvent.click(screen.getByRole('button', { name: 'Seek' }))
    return opened
  }
  test('an exact answer is taken as a given, rounded to what is meant', async () => {
    const { last, asked } = await seek(() => sought({ value: 221.4567891 }))
    await userEvent.click(await screen.findByRole('button', { name: 'Take it' }))
    const moved = (asked.at(-1)!.body as { move: string }).move
    expect(last().design.givens[moved]).toBe(221.457)
  })
  test('asks with the words as they were typed', async () => {
    const { asked } = await seek(() => sought({}))
    await screen.findByTestId('sought')
    expect(asked.at(-1)!.body).toMatchObject({ wanted: '58 V', corner: 'high', key: 'front.peak_voltage' })
  })
  test('where it jumps, both sides are offered', async () => {
    const { last } = await seek(() =>
      sought({ exact: false, below: { value: 8, reaches: 57 }, above: { value: 9, reaches: 64 } }),
    )
    expect((await screen.findByTestId('sought')).textContent).toContain('It jumps there.')
    await userEvent.click(screen.getByRole('button', { name: /^9\s.*gives 64/ }))
    expect(Object.values(last().design.givens)).toContain(9)
  })
  test('what cannot be reached says how near it comes', async () => {
    await seek(() => sought({ exact: false, value: 240, reaches: 59 }))
    expect((await screen.findByTestId('sought')).textContent).toMatch(/cannot be reached.*Nearest: 59.V at/)
  })
  test('a mistake in what was typed is quoted, and the words stay', async () => {
    await seek(() => new Response(JSON.stringify({ error: 'field', message: '“58 V” is no voltage' }), { status: 422 }))
    expect((await screen.findByRole('alert')).textContent).toBe('“58 V” is no voltage')
    expect((screen.getByLabelText('Make peak voltage equal to') as HTMLInputElement).value).toBe('58 V')
  })
})

describe('what moves it most', () => {
  const bars = [bar('a.first', 0.2, { sized: -0.1, jumped: 'core E2 → E3' }), bar('a.second', -0.05)]
  test('the strongest fills half the width, the others in proportion, to the side they move it', () => {
    const { container } = show(<Sensitivity bars={bars} own="a" select={select} />)
    const [first, second] = [...container.querySelectorAll('rect')].map((r) => ({
      x: Number(r.getAttribute('x')),
      width: Number(r.getAttribute('width')),
    }))
    expect(first).toEqual({ x: 50, width: 48 })
    expect(second!.width).toBeCloseTo(12)
    expect(second!.x + second!.width).toBeCloseTo(50)
  })
  test('what is not known re-sized has no mark', () => {
    const { container } = show(<Sensitivity bars={bars} own="a" select={select} />)
    expect(container.querySelectorAll('path')).toHaveLength(1)
  })
  test('a step that is not the usual one is said with its sign', () => {
    show(<Sensitivity bars={[bar('a.first', -0.2, { step: '−10 %' }), bar('a.second', 0.1)]} own="a" select={select} />)
    expect(screen.getAllByRole('button').map((b) => b.textContent)).toEqual(['first −10 %', 'second'])
  })
  test('what a jump of the build does is said in words', () => {
    show(<Sensitivity bars={bars} own="a" select={select} />)
    expect(screen.getByText('re-sized -10.0 %: core E2 → E3')).toBeTruthy()
  })
  test('a given of another place stands with it, a load by the name of the brief', () => {
    const others = [bar('a.first', 0.2), bar('battery.cells', 0.1), bar('load_1.count', 0.05)]
    show(<Sensitivity bars={others} own="a" select={select} />)
    const names = screen.getAllByRole('button').map((b) => b.textContent)
    expect(names).toEqual(['first', 'cells Battery', 'count Heater'])
  })
  test('per cent carry their sign, an unknown a dash', () => {
    expect([0.1234, -0.05, 0, null].map((v) => change({ kelvin: false }, v))).toEqual([
      '+12.3 %',
      '-5.0 %',
      '0.0 %',
      '–',
    ])
    expect(change({ kelvin: true }, 3.16)).toBe('+3.2 K')
  })
})

test('a value within a formula keeps the power of its unit', () => {
  expect(texOf('12 mm²')).toBe('\\textsf{12 mm}^2\\textsf{}')
  expect(texOf('3 %')).toBe('\\textsf{3 \\%}')
  expect(texOf('')).toBe('\\text{?}')
})

test('a note of the sheet stands beside the reason', async () => {
  serve({ why: () => why(), sensitivity: () => [] })
  const sheet = sampleSheet()
  sheet.figures['front.peak_voltage'] = { values: [60, 90], warnings: ['beyond the fit'] }
  show(<WhyPanel figure="front.peak_voltage" select={select} mode="why" setMode={vi.fn()} onClose={vi.fn()} />, {
    sheet,
    design: sampleDesign(),
  })
  expect(await screen.findByText('Note: beyond the fit.')).toBeTruthy()
})

describe('a formula too long for its column', () => {
  test('has its gathered lines apart, what follows with the first, and cases whole', () => {
    const cases = '\\begin{cases}a&b=0\\\\c&\\text{else}\\end{cases}'
    expect(linesOf(`= \\begin{gathered}A+1\\\\A=${cases}\\end{gathered} = 3`)).toEqual(['= A+1 = 3', `A=${cases}`])
    expect(linesOf('x = y')).toEqual(['x = y'])
  })
  test('may be broken within its brackets and after commas, arrows and half braces left alone', () => {
    expect(looser('\\left(a+b\\right)')).toBe('\\Bigl(a+b\\Bigr)')
    expect(looser('f({a},{b},\\,c)')).toBe('f({a},\\allowbreak {b},\\allowbreak \\,c)')
    expect(looser('a \\leftarrow b')).toBe('a \\leftarrow b')
  })
})
