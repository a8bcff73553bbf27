import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import type { BuildPack, Comparison, Curve, WindingCard } from '../src/api'
import { BatteryWindow } from '../src/pictures/BatteryWindow'
import { DutyCurve } from '../src/pictures/DutyCurve'
import { LossBars } from '../src/pictures/LossBars'
import { PrechargeCurve } from '../src/pictures/PrechargeCurve'
import Build from '../src/screens/build/Build'
import LineUps from '../src/screens/LineUps'
import Log from '../src/screens/Log'
import { ConflictDialog, FinderDialog, KeysDialog, RevisionDialog } from '../src/ui/dialogs'
import * as saving from '../src/ui/save'
import { judged, place, sampleDesign, sampleMeta, sampleProject, sampleSheet, serve, show } from './sample'

const rowOf = (name: RegExp) => screen.getByRole('row', { name })
const cellsOf = (row: HTMLElement) => [...row.querySelectorAll('td')].map((td) => td.textContent)

describe('the line-ups side by side', () => {
  const comparison = (id: string, over: Partial<Comparison> = {}): Comparison => ({
    id,
    title: `Title of ${id}`,
    switch_voltage: 58.4,
    switch: 'N100-8',
    loss: 31.2,
    idle: 15.9,
    efficiency: [0.812, 0.915, null],
    parts: 24,
    cost: 61,
    mass: 1.23,
    tightest: { check: 'a', title: 'Flux', verdict: 'tight', margin: 1.04 },
    fails: 0,
    tight: 2,
    ...over,
  })
  let asked: ReturnType<typeof serve>
  beforeEach(() => {
    asked = serve({
      compare: () => [comparison('sample'), comparison('other', { loss: null })],
      'projects/7/decisions': () => ({ id: 1 }),
    })
  })

  test('every number has its unit, an unknown is a dash', async () => {
    show(<LineUps />)
    await screen.findByTestId('compare')
    expect(cellsOf(rowOf(/^Loss at full load/))).toEqual(['Loss at full load', '31.2\u2009W', '–'])
    expect(cellsOf(rowOf(/^Efficiency/))[1]).toBe('81.2 % / 91.5 % / –')
    expect(cellsOf(rowOf(/^Mass/))[1]).toBe('1.23\u2009kg')
    expect(within(rowOf(/^Tightest/)).getAllByLabelText('tight')).toHaveLength(2)
  })
  test('the one in use is marked, the other can be taken', async () => {
    const { last } = show(<LineUps />)
    await userEvent.click(await screen.findByRole('button', { name: 'Use this line-up' }))
    expect(last().design.lineup).toBe('other')
    expect(screen.getAllByText('In use')).toHaveLength(1)
  })
  test('a decision needs a title and a reason, and is recorded with its numbers', async () => {
    const { workspace } = show(<LineUps />)
    const record = await screen.findByRole('button', { name: 'Record the decision' })
    await userEvent.type(screen.getByLabelText('What was decided'), 'Push-pull')
    expect(record).toHaveProperty('disabled', true)
    await userEvent.type(screen.getByLabelText('Why'), 'Less loss')
    await userEvent.click(record)
    await screen.findByText('Recorded in the log.')
    const numbers = { lineup: 'sample', loss: 31.2, cost: 61 }
    expect(asked.at(-1)).toEqual({
      path: 'projects/7/decisions',
      body: { title: 'Push-pull', reason: 'Less loss', numbers },
    })
    expect(workspace.reload).toHaveBeenCalled()
  })
})

describe('the build pack', () => {
  const wire = (name: string, turns: number, strands: number) => ({
    name,
    turns,
    strands,
    diameter: 0.5e-3,
    length: 0.4,
    resistance: 1e-3,
    mass: 0.02,
    start: '1',
    finish: '4',
    note: `Note of ${name}`,
  })
  const winding: WindingCard = {
    halves: 1,
    core: { area: 2e-4, window: 180e-6, breadth: 26e-3, mean_turn: 0.1 },
    order: [wire('first part', 4, 19), wire('secondary', 76, 3), wire('second part', 4, 18)],
    interfaces: 2,
    insulation: 0.15e-3,
    expected: { magnetising_inductance: 95e-6, leakage: 80e-9, ratio: 19 },
    test: 'Energise with a low voltage first.',
  }
  const line = (what: string, price: number | null, quantity: number) => ({
    place: 'front',
    what,
    part: 'N100-8',
    description: 'a switch',
    quantity,
    price,
    total: price === null ? null : price * quantity,
  })
  const pack: BuildPack = { parts: [line('Switch', 1.25, 4), line('Resistor', null, 2)], csv: 'a,b', winding }

  test('lists parts by the name of their stage, and sums what has a price', async () => {
    serve({ build: () => pack })
    show(<Build />)
    await screen.findByTestId('parts')
    expect(cellsOf(rowOf(/^Front Switch/))).toEqual(['Front', 'Switch', 'N100-8', 'a switch', '4', '1.25', '5.00'])
    expect(cellsOf(rowOf(/^Front Resistor/)).slice(-2)).toEqual(['', ''])
    expect(cellsOf(rowOf(/^Priced parts/))).toEqual(['Priced parts, credits', '5.00'])
  })
  test('the card gives each part of a winding its own strands, and readings with units', async () => {
    serve({ build: () => pack })
    show(<Build />)
    const card = within(await screen.findByTestId('winding'))
    const wires = card
      .getAllByRole('row')
      .slice(1)
      .map((r) => cellsOf(r)[2])
    expect(wires).toEqual(['19 × 0.5\u2009mm', '3 × 0.5\u2009mm', '18 × 0.5\u2009mm'])
    expect(cellsOf(rowOf(/^Magnetising/))[1]).toBe('95\u2009µH')
    expect(screen.getByText(/withstand test/).className).toBe('caution')
  })
  test('warns before parts are ordered for a design that fails', async () => {
    serve({ build: () => pack })
    show(<Build />, { sheet: sampleSheet({ checks: { a: judged(['fails']), b: judged(['fails']) } }) })
    expect(await screen.findByText('2 checks fail.')).toBeTruthy()
  })
  test('saves what the server made, under the name of the design', async () => {
    const saved = vi.spyOn(saving, 'saveText').mockImplementation(() => undefined)
    serve({ build: () => pack })
    show(<Build />)
    await userEvent.click(await screen.findByRole('button', { name: 'CSV' }))
    expect(saved).toHaveBeenLastCalledWith('a,b', 'Lamp on the pier parts.csv', 'text/csv')
    await userEvent.click(screen.getByRole('button', { name: 'JSON' }))
    expect(JSON.parse(saved.mock.lastCall![0])).toEqual(pack)
  })
})

describe('the log', () => {
  const revision = (number: number) => ({
    number,
    parent: number - 1,
    author: 'Ines',
    message: `Message ${number}`,
    created: '2026-01-02T10:00:00',
  })
  const project = { ...sampleProject(), head: 2, revisions: [revision(2), revision(1)] }

  test('opens a former revision as the draft', async () => {
    const old = sampleDesign({ title: 'As it was' })
    serve({ 'projects/7/revisions/1': () => ({ design: old }) })
    const { last } = show(<Log />, { project })
    await userEvent.click(within(rowOf(/^1 Message 1/)).getByRole('button', { name: 'Open' }))
    await screen.findByText(/Revision 1 is now the draft/)
    expect(last()).toEqual({ label: 'Opened revision 1', design: old })
  })
  test('tells when one cannot be opened, and edits nothing', async () => {
    serve({})
    const { edit } = show(<Log />, { project })
    await userEvent.click(within(rowOf(/^2 Message 2/)).getByRole('button', { name: 'Open' }))
    expect(await screen.findByText('no projects/7/revisions/2')).toBeTruthy()
    expect(edit).not.toHaveBeenCalled()
  })
  test('shows decisions with their reasons, and what changed in the catalogue since', () => {
    const decisions = [{ id: 1, revision: 2, title: 'Ferrite', reason: 'Lighter', author: 'Ines', created: '' }]
    const catalogue_changes = [{ pick: 'front.switch', part: 'N100-8', what: 'is dearer now' }]
    show(<Log />, { project: { ...project, decisions, catalogue_changes } })
    expect(screen.getByText('Lighter')).toBeTruthy()
    expect(screen.getByText('N100-8 is dearer now')).toBeTruthy()
  })
})

describe('the dialogs', () => {
  test('find a stage or a figure by any of its words, and lead there on Enter', async () => {
    const go = vi.fn()
    show(<FinderDialog open onClose={vi.fn()} go={go} />)
    const field = await screen.findByLabelText('Words to find')
    await userEvent.type(field, 'front turns')
    expect(screen.getAllByRole('listitem').map((l) => l.textContent)).toEqual(['TurnsFront'])
    await userEvent.type(field, '{Enter}')
    expect(go).toHaveBeenLastCalledWith('stages/front?figure=front.turns')
    await userEvent.type(field, 'xyz')
    expect(screen.getByText(/Nothing is called that/)).toBeTruthy()
  })
  test('a revision needs a message; when it cannot be saved, the words stay', async () => {
    const saveRevision = vi.fn(() => Promise.reject(new Error('Rhombos does not answer.')))
    show(<RevisionDialog open onClose={vi.fn()} />, { saveRevision })
    const save = await screen.findByRole('button', { name: 'Save the revision' })
    expect(save).toHaveProperty('disabled', true)
    const words = screen.getByLabelText<HTMLTextAreaElement>('What this revision is about')
    await userEvent.type(words, '  as built ')
    await userEvent.click(save)
    expect((await screen.findByRole('alert')).textContent).toContain('Your words are kept.')
    expect(words.value).toBe('  as built ')
    expect(saveRevision).toHaveBeenCalledWith('as built')
  })
  test('a conflict shows what differs on both sides, and takes either', async () => {
    const theirs = { version: 5, design: sampleDesign({ givens: { 'battery.cells': 7 }, lineup: 'other' }) }
    const { workspace } = show(<ConflictDialog />, { save: { kind: 'conflict', theirs } })
    await screen.findByText('Two sides')
    expect(screen.getAllByRole('listitem').map((l) => l.textContent)).toEqual([
      'line-up: sample here, other there',
      'Heater, rated power: 300\u2009W here, not set there',
      'Battery, cells: not set here, 7 there',
    ])
    await userEvent.click(screen.getByRole('button', { name: 'Keep what is here' }))
    await userEvent.click(screen.getByRole('button', { name: 'Take the other side' }))
    expect(vi.mocked(workspace.resolve).mock.calls.flat()).toEqual([true, false])
  })
  test('the list of keys can switch single letters off', async () => {
    show(<KeysDialog open onClose={vi.fn()} />)
    await userEvent.click(await screen.findByRole('checkbox'))
    expect(localStorage.getItem('rhombos-letters')).toBe('off')
  })
})

describe('the pictures', () => {
  const sheet = sampleSheet()
  Object.assign(sheet.figures, {
    'battery.open_circuit_voltage': { values: [24, 28] },
    'battery.pack_voltage': { values: [23, 27.5] },
    'battery.terminal_voltage': { values: [22.5, 27] },
    'cutoff.falling_threshold': { values: [21] },
    'cutoff.rising_threshold': { values: [24.5] },
    'precharge.resistor_voltage': { values: [29.2] },
    'precharge.time_constant': { values: [0.1] },
    'precharge.precharge_time': { values: [0.3] },
    'precharge.closing_fraction': { values: [0.95] },
    'oscillator.duty_limit': { values: [0.95] },
    'front.total_duty': { values: [0.8, 0.7] },
    'battery.loss': { values: [2, 3] },
    'front.loss': { values: [8, 4] },
    'output.loss': { values: [0, 0] },
  })
  const curve = (series: Curve['series']): Curve => ({ x: 'v', points: [20, 24, 28], series })
  const curves = {
    duty: curve({ 'front.total_duty': [0.9, 0.8, null] }),
    link: curve({ 'rectifier.reachable_voltage': [360, 420, 480], 'link.link_voltage': [360, 385, 385] }),
    efficiency: curve({ lowest: [0.8, 0.9, 0.91], nominal: [0.81, 0.9, 0.92] }),
  }

  test('the battery window sets every corner against both thresholds', () => {
    const { container } = show(<BatteryWindow />, { sheet })
    const bars = [...container.querySelectorAll('line:not(.limit)')].map((l) =>
      ['x1', 'x2'].map((a) => Number(l.getAttribute(a))),
    )
    const limits = [...container.querySelectorAll('line.limit')].map((l) => Number(l.getAttribute('x1')))
    expect(bars).toHaveLength(2)
    expect(limits[0]).toBeLessThan(bars[0]![0]!)
    const perVolt = (limits[1]! - limits[0]!) / 3.5
    expect(bars[1]![1]! - bars[1]![0]!).toBeCloseTo(perVolt * 1, 6)
    expect(screen.getByText('cut-off 21 V')).toBeTruthy()
  })
  test('the precharge curve rises to its source and marks the closing', () => {
    show(<PrechargeCurve />, { sheet })
    expect(screen.getByText('close at 300 ms')).toBeTruthy()
    expect(screen.getByText('test at τ/2')).toBeTruthy()
  })
  test('duty and link are drawn over the battery window', async () => {
    serve({ curves: () => curves })
    show(<DutyCurve />, { sheet })
    await screen.findByLabelText('Total duty at full load, build held')
    expect(screen.getByText('this corner')).toBeTruthy()
    expect(screen.getByText('within reach')).toBeTruthy()
  })
  test('losses come the greatest first, in proportion, and none that is nothing', async () => {
    serve({ curves: () => curves })
    const meta = sampleMeta({ places: ['battery', 'front', 'output'].map((name) => place(name)) })
    const { container } = show(<LossBars />, { sheet, meta })
    const bars = [...container.querySelectorAll('svg[aria-label="Loss by stage"] g')]
    expect(bars.map((b) => b.textContent)).toEqual(['Front8\u2009W', 'Battery2\u2009W'])
    const widths = bars.map((b) => Number(b.querySelector('rect')!.getAttribute('width')))
    expect(widths[0]! / widths[1]!).toBeCloseTo(4)
    await waitFor(() => expect(screen.getByLabelText('Efficiency against load, build held')).toBeTruthy())
  })
})
