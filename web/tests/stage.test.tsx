import { fireEvent, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { describe, expect, test, vi } from 'vitest'
import type { PickTold, Remedy, Sheet } from '../src/api'
import { Givens } from '../src/screens/stage/Givens'
import { Judgements } from '../src/screens/stage/Judgements'
import { beside, margin } from '../src/screens/stage/FigureRow'
import { Ledger } from '../src/screens/stage/Ledger'
import { StageSheet } from '../src/screens/stage/StageSheet'
import { PickPanel } from '../src/screens/stage/PickPanel'
import { figure, judged, pick, place, sampleDesign, sampleMeta, sampleSheet, serve, show } from './sample'

const front = place('front')
const select = vi.fn()
const row = (key: string) => document.querySelector<HTMLElement>(`tr[data-figure="${key}"]`)!

describe('the ledger', () => {
  const ledger = (over: Parameters<typeof show>[1] = {}) =>
    show(<Ledger place={front} open={null} select={select} />, over)

  test('shows the value at the corner that is looked at, with unit, verdict and range', () => {
    ledger({ corner: 1 })
    const cells = within(row('front.peak_voltage'))
    expect(row('front.peak_voltage').textContent).toContain('90V')
    expect(cells.getByLabelText('tight')).toBeTruthy()
    expect(row('front.peak_voltage').textContent).toContain('60 … 90\u2009V')
    expect(cells.getByLabelText('margin 1.10')).toBeTruthy()
  })
  test('lists what is worked and picked here, and no given of another stage', () => {
    ledger()
    const shown = [...document.querySelectorAll<HTMLElement>('tr[data-figure]')].map((r) => r.dataset['figure'])
    expect(shown).toEqual(['front.switch', 'front.peak_voltage', 'front.turns'])
    expect(row('front.switch').textContent).toContain('2 × N100-8')
  })
  test('filters by what is tight and what is pinned, and says so where nothing is', async () => {
    ledger()
    await userEvent.click(screen.getByRole('button', { name: 'tight or failing 1' }))
    expect([...document.querySelectorAll('tr')].map((r) => r.dataset['figure'])).toEqual(['front.peak_voltage'])
    await userEvent.click(screen.getByRole('button', { name: 'pinned 0' }))
    expect(document.querySelectorAll('tr')).toHaveLength(0)
    expect(screen.getByText(/Nothing is pinned here/)).toBeTruthy()
  })
  test('a part that is pinned or does not fit is among what is filtered', async () => {
    ledger({ sheet: sampleSheet({ picks: { 'front.switch': pick('N40-2', { fits: false, pinned: true }) } }) })
    const shown = () => [...document.querySelectorAll('tr')].map((r) => r.dataset['figure'])
    await userEvent.click(screen.getByRole('button', { name: 'pinned 1' }))
    expect(shown()).toEqual(['front.switch'])
    await userEvent.click(screen.getByRole('button', { name: 'tight or failing 2' }))
    expect(shown()).toEqual(['front.switch', 'front.peak_voltage'])
  })
  test('shows the cause of what is unknown and of what does not apply', () => {
    const figures = {
      ...sampleSheet().figures,
      'front.turns': { values: [null], unknown: { all: 'the source cannot deliver it' } },
      'front.peak_voltage': { values: [null, 90], does_not_apply: { low: 'only at surge' } },
    }
    ledger({ sheet: sampleSheet({ figures }) })
    expect(within(row('front.turns')).getByTitle('the source cannot deliver it').textContent).toBe('unknown')
    expect(within(row('front.peak_voltage')).getByTitle('only at surge').textContent).toBe('does not apply')
  })
  test('shows the former value of what moved, and a part that does not fit', () => {
    const sheet = sampleSheet({ picks: { 'front.switch': pick('N40-2', { fits: false }) } })
    ledger({ sheet, former: { 'front.turns': 5 } })
    expect(row('front.turns').querySelector('.former')?.textContent).toBe('5')
    expect(row('front.switch').textContent).toContain('none fits')
  })
  test('a row leads to its why', () => {
    ledger()
    fireEvent.click(row('front.turns'))
    expect(select).toHaveBeenLastCalledWith('front.turns')
  })
})

describe('beside a value', () => {
  const volts = figure('front.peak_voltage', 'V')
  test('stands its range, only where the corners differ', () => {
    expect(beside(volts, { values: [60, 90] })).toBe('60 … 90\u2009V')
    expect(beside(volts, { values: [null, 90, 60] })).toBe('60 … 90\u2009V')
    expect(beside(volts, { values: [90, 90 + 1e-9] })).toBe('')
    expect(beside(volts, { values: [90] })).toBe('')
  })
  test('stands what its own formula gives, where it is pinned', () => {
    expect(beside(volts, { values: [80, 80], pinned: true, computed: [90] })).toBe('computed 90\u2009V')
  })
})

describe('a margin', () => {
  const bar = (check: ReturnType<typeof judged>) => {
    const { container } = show(margin(check, 0))
    const [, value] = [...container.querySelectorAll('rect')]
    return { width: Number(value!.getAttribute('width')), tone: value!.getAttribute('fill'), container }
  }
  test('reaches the tick exactly where it would fail', () => {
    expect(bar(judged(['fails'], { margin: [1.1], fail: 1.1 })).width).toBeCloseTo(50)
    expect(bar(judged(['fails'], { margin: [0.55], fail: 1.1 })).width).toBeCloseTo(25)
  })
  test('is capped at twice what is needed, and full without a demand', () => {
    expect(bar(judged(['holds'], { margin: [40] })).width).toBe(100)
    expect(bar(judged(['holds'], { margin: [null], no_demand: true })).width).toBe(100)
  })
  test('of an unknown is no bar at all', () => {
    const { width, container } = bar(judged(['unknown']))
    expect(width).toBe(0)
    expect(container.querySelector('[aria-label="unknown"]')).toBeTruthy()
  })
  test('has the tone of its verdict', () => {
    const tones = (['holds', 'tight', 'fails'] as const).map((v) => bar(judged([v])).tone)
    expect(tones).toEqual(['var(--hold)', 'var(--tight)', 'var(--fail)'])
  })
})

describe('the judgements', () => {
  const failing = (over: Partial<Sheet> = {}) =>
    sampleSheet({ checks: { 'front.voltage': judged(['tight', 'fails'], { worst: 1 }) }, ...over })
  const remedy = (over: Partial<Remedy> = {}): Remedy => ({
    check: 'front.voltage',
    key: 'front.turns',
    title: 'Turns',
    kind: 'build',
    before: 4,
    after: 5,
    sentence: 'Raise turns from 4 to 5',
    breaks: [],
    offered: true,
    returns: false,
    part: null,
    quantity: 1,
    ...over,
  })

  test('name the corner, the numbers, the reason and who can be hurt', () => {
    serve({ remedies: () => [] })
    const meta = sampleMeta()
    meta.checks['front.voltage'] = { ...meta.checks['front.voltage']!, harm: 'people' }
    show(<Judgements place="front" select={select} />, { sheet: failing(), meta })
    const words = document.querySelector('[data-check="front.voltage"]')!.textContent
    expect(words).toContain('Voltage of the switch, highest full. It sees 90 V and stands 100 V.')
    expect(words).toContain('Avalanche takes its toll. People can be hurt.')
  })
  test('a remedy that moves a figure pins it with its reason', async () => {
    const asked = serve({ remedies: () => [remedy({ breaks: ['Fill'] })] })
    const { last } = show(<Judgements place="front" select={select} />, { sheet: failing() })
    await userEvent.click(await screen.findByRole('button', { name: /Raise turns from 4 to 5.*then fails: fill/ }))
    expect(last().label).toBe('Raise turns from 4 to 5')
    expect(asked[0]).toMatchObject({ path: 'remedies', body: { place: 'front' } })
    const reason = 'remedy for: voltage of the switch'
    expect(last().design.pins['front.turns']).toEqual({ value: 5, part: null, quantity: 1, reason })
  })
  test('a remedy that moves a given gives it', async () => {
    serve({
      remedies: () => [remedy({ key: 'battery.cells', kind: 'given', after: 7, sentence: 'Take 7 cells' }), remedy()],
    })
    const { last } = show(<Judgements place="front" select={select} />, { sheet: failing() })
    await userEvent.click(await screen.findByRole('button', { name: 'Take 7 cells' }))
    expect(last().design.givens['battery.cells']).toBe(7)
    expect(last().design.pins).toEqual({})
  })
  test('what is no setting is told, and cannot be clicked', async () => {
    serve({ remedies: () => [remedy({ sentence: 'Lower the loop from 9 nH to 3 nH', offered: false })] })
    show(<Judgements place="front" select={select} />, { sheet: failing() })
    await screen.findByText(/It would take: lower the loop from 9 nH to 3 nH/)
    expect(screen.queryByRole('button', { name: /Lower the loop/ })).toBeNull()
  })
  test('a part of the catalogue is fitted, and what leads back says so', async () => {
    const part = {
      key: 'front.switch',
      kind: 'part',
      part: 'NM100-2R3',
      quantity: 2,
      sentence: 'Fit switch 2 × NM100-2R3',
    }
    serve({ remedies: () => [remedy({ ...part, breaks: ['Restart'], returns: true })] })
    const { last } = show(<Judgements place="front" select={select} />, { sheet: failing() })
    await userEvent.click(
      await screen.findByRole('button', { name: /then fails: restart; what mends that undoes this/ }),
    )
    expect(last().design.pins['front.switch']).toMatchObject({ part: 'NM100-2R3', quantity: 2, value: null })
  })
  test('what the catalogue lacks is said', async () => {
    const sentence = 'No fuse of the catalogue brings rated voltage to 108 V: add one'
    serve({ remedies: () => [remedy({ key: 'front.fuse', kind: 'wish', sentence, offered: false })] })
    show(<Judgements place="front" select={select} />, { sheet: failing() })
    expect(await screen.findByText(new RegExp(`^${sentence}\\.`))).toBeTruthy()
  })
  test('where no move mends it, they lead to the reason', async () => {
    serve({ remedies: () => [remedy({ check: 'link.volts' })] })
    show(<Judgements place="front" select={select} />, { sheet: failing() })
    await userEvent.click(await screen.findByRole('button', { name: /No single move/ }))
    expect(select).toHaveBeenLastCalledWith('front.peak_voltage')
  })
  test('a pin at fault can be taken out, with what the formula would give', async () => {
    serve({ remedies: () => [] })
    const design = sampleDesign({ pins: { 'front.turns': { value: 3, part: null, quantity: 1, reason: '' } } })
    const sheet = failing()
    sheet.figures['front.turns'] = { values: [3], pinned: true, computed: [4] }
    const { last } = show(<Judgements place="front" select={select} />, { sheet, design })
    await userEvent.click(screen.getByRole('button', { name: 'Unpin turns → 4' }))
    expect(last().design.pins).toEqual({})
  })
  test('what holds asks nobody for a remedy', () => {
    const asked = serve({})
    show(<Judgements place="front" select={select} />, {
      sheet: sampleSheet({ checks: { 'front.voltage': judged(['holds']) } }),
    })
    expect(screen.getByText('It sees 90 V and stands 100 V.').className).toBe('quiet')
    expect(asked).toEqual([])
  })
})

describe('the givens', () => {
  test('carry a caution with the design’s own numbers, and mark values of experience', () => {
    const sheet = sampleSheet()
    sheet.figures['battery.fault_current'] = { values: [2400] }
    const meta = sampleMeta()
    meta.figures['battery.fault_current'] = figure('battery.fault_current', 'A')
    const hazards = [{ kind: 'fault_current' as const, figure: 'battery.fault_current', above: 100 }]
    show(<Givens place={place('battery', { hazards })} select={select} />, { sheet, meta })
    expect(screen.getByRole('note').textContent).toContain('A short draws 2.4\u2009kA')
    expect(screen.getByLabelText('Resistance *')).toBeTruthy()
    expect(screen.getByText(/value of experience/)).toBeTruthy()
  })
  test('a caution is told by the number, not by the place: 110 V of a battery are, 29 V are not', () => {
    const meta = sampleMeta()
    meta.figures['battery.most'] = figure('battery.most', 'V')
    const hazards = [{ kind: 'dc_voltage' as const, figure: 'battery.most', above: 60 }]
    const sheet = sampleSheet()
    sheet.figures['battery.most'] = { values: [24, null, 29] }
    const { unmount } = show(<Givens place={place('battery', { hazards })} select={select} />, { sheet, meta })
    expect(screen.queryByRole('note')).toBeNull()
    unmount()
    sheet.figures['battery.most'] = { values: [96, 110] }
    show(<Givens place={place('battery', { hazards })} select={select} />, { sheet, meta })
    expect(screen.getByRole('note').textContent).toContain('110\u2009V DC')
  })
  test('a choice is made by its words', async () => {
    const { last } = show(<Givens place={place('battery')} select={select} />)
    await userEvent.selectOptions(screen.getByLabelText('Chemistry'), 'Lead-acid')
    expect(last()).toMatchObject({
      label: 'Chemistry: Lead-acid',
      design: { choices: { 'battery.chemistry': 'lead' } },
    })
  })
  test('a pin stands with its reason and what the formula gives, and can be taken out', async () => {
    const pins = { 'front.turns': { value: 3, part: null, quantity: 1, reason: 'wound already' } }
    const sheet = sampleSheet()
    sheet.figures['front.turns'] = { values: [3], pinned: true, computed: [4] }
    const { last } = show(<Givens place={front} select={select} />, { design: sampleDesign({ pins }), sheet })
    expect(screen.getByText('“wound already” · computed 4')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Unpin' }))
    expect(last()).toMatchObject({ label: 'Unpinned Turns', design: { pins: {} } })
  })
  test('a stage without givens says so', () => {
    show(<Givens place={front} select={select} />)
    expect(screen.getByText(/Nothing is given here/)).toBeTruthy()
  })
})

describe('a picked part', () => {
  const runner = (part: string, quantity: number, fits: boolean, need: string, margin: number) => ({
    part,
    quantity,
    fits,
    need,
    capability: 60,
    demand: 112,
    level: 1.25,
    price: fits ? 3.2 : 1.1,
    unit: 'V',
    margin,
  })
  const told: PickTold = {
    part: 'N100-8',
    quantity: 2,
    record: { description: 'a made-up switch' },
    fits: true,
    pinned: false,
    tightest: runner('N100-8', 2, true, 'rated voltage', 1.25),
    runners_up: [runner('N150-9', 1, true, 'price', 1.5), runner('N60-4', 2, false, 'rated voltage', 0.5)],
  }
  const panel = (over = {}) => {
    serve({ pick: () => ({ ...told, ...over }) })
    return show(<PickPanel pickKey="front.switch" onClose={select} />, {
      sheet: sampleSheet({ picks: { 'front.switch': pick('N100-8', over) } }),
    })
  }
  test('says what binds, and what the runners-up cost or lack', async () => {
    panel()
    expect(await screen.findByText(/Tightest: rated voltage, 1.25 × what is needed/)).toBeTruthy()
    expect(screen.getByText('would do for 3.2 cr')).toBeTruthy()
    expect(screen.getByText('rated voltage: 60 V of 1.25 × 112 V')).toBeTruthy()
  })
  test('a runner-up can be pinned', async () => {
    const { last } = panel()
    await userEvent.click((await screen.findAllByRole('button', { name: 'Pin' }))[0]!)
    expect(last().design.pins['front.switch']).toMatchObject({ part: 'N150-9', quantity: 1, value: null })
  })
  test('one that does not fit says so', async () => {
    panel({ fits: false, pinned: true })
    expect(await screen.findByText(/It does not fit: rated voltage/)).toBeTruthy()
    expect(screen.getByRole('button', { name: 'Unpin' })).toBeTruthy()
  })
})

describe('the keys of a sheet', () => {
  const open = (path: string, over = {}) => {
    serve({})
    const page = (
      <Routes>
        <Route path="/stages/:place" element={<StageSheet />} />
      </Routes>
    )
    return show(page, over, path)
  }
  const press = (key: string) => fireEvent.keyDown(document.body, { key })
  const opened = () => [...document.querySelectorAll('tr.open')].map((r) => r.getAttribute('data-figure'))

  test('w opens the first figure, Escape closes it', () => {
    open('/stages/front')
    expect(opened()).toEqual([])
    press('w')
    expect(opened()).toEqual(['front.peak_voltage'])
    press('Escape')
    expect(opened()).toEqual([])
  })
  test('p takes the pin of the open figure out', () => {
    const design = sampleDesign({ pins: { 'front.turns': { value: 3, part: null, quantity: 1, reason: '' } } })
    const { last } = open('/stages/front?figure=front.turns', { design })
    press('p')
    expect(last()).toMatchObject({ label: 'Unpinned Turns', design: { pins: {} } })
  })
  test('do nothing where letters are off', () => {
    localStorage.setItem('rhombos-letters', 'off')
    open('/stages/front')
    press('w')
    expect(opened()).toEqual([])
  })
  test('a stage that the line-up lacks says so', () => {
    open('/stages/flywheel')
    expect(screen.getByText(/has no stage “flywheel”/)).toBeTruthy()
  })
})
