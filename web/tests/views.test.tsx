import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import type { BuildPack, Comparison, Picture, WindingCard } from '../src/api'
import { StagePicture } from '../src/pictures/StagePicture'
import Build from '../src/screens/build/Build'
import LineUps from '../src/screens/LineUps'
import Log from '../src/screens/Log'
import { ConflictDialog, FinderDialog, KeysDialog, RevisionDialog } from '../src/ui/dialogs'
import * as saving from '../src/ui/save'
import { judged, place, sampleDesign, sampleProject, sampleSheet, serve, show } from './sample'

const rowOf = (name: RegExp) => screen.getByRole('row', { name })
const cellsOf = (row: HTMLElement) => [...row.querySelectorAll('td')].map((td) => td.textContent)

describe('the line-ups side by side', () => {
  const column = (id: string) => ({
    id,
    title: `Title of ${id}`,
    tightest: { check: 'a', title: 'Flux', verdict: 'tight', margin: 1.04 },
    fails: 0,
    tight: 2,
  })
  const row = (title: string, unit: string, sample: (number | null)[], other = sample) => ({
    title,
    unit,
    numbers: { sample, other },
    parts: {},
  })
  const compared: Comparison = {
    columns: [column('sample'), column('other')],
    rows: [
      { title: 'Front: switch', unit: '', numbers: {}, parts: { sample: 'N100-8' } },
      row('Loss at full load', 'W', [31.2], [null]),
      row('Efficiency at 10 / 50 / 100 %', '', [0.812, 0.915, null]),
      row('Mass of parts', 'kg', [1.23]),
    ],
  }
  let asked: ReturnType<typeof serve>
  beforeEach(() => {
    asked = serve({ compare: () => compared, 'projects/7/decisions': () => ({ id: 1 }) })
  })

  test('every number has its unit, an unknown is a dash', async () => {
    show(<LineUps />)
    await screen.findByTestId('compare')
    expect(cellsOf(rowOf(/^Loss at full load/))).toEqual(['Loss at full load', '31.2\u2009W', '–'])
    expect(cellsOf(rowOf(/^Efficiency/))[1]).toBe('81.2 % / 91.5 % / –')
    expect(cellsOf(rowOf(/^Mass/))[1]).toBe('1.23\u2009kg')
    expect(within(rowOf(/^Tightest/)).getAllByLabelText('tight')).toHaveLength(2)
    expect(cellsOf(rowOf(/^Front: switch/))).toEqual(['Front: switch', 'N100-8', 'none'])
    expect(screen.getByText('2 of 4 rows differ')).toBeTruthy()
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
    const numbers = {
      lineup: 'sample',
      'Front: switch': 'N100-8',
      'Loss at full load': '31.2\u2009W',
      'Efficiency at 10 / 50 / 100 %': '81.2 % / 91.5 % / –',
      'Mass of parts': '1.23\u2009kg',
    }
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
    place: 'front',
    title: 'Transformer',
    halves: 1,
    core: { area: 2e-4, window: 180e-6, breadth: 26e-3, mean_turn: 0.1 },
    order: [wire('first part', 4, 19), wire('secondary', 76, 3), wire('second part', 4, 18)],
    interfaces: 2,
    insulation: 0.15e-3,
    expected: { magnetising_inductance: 95e-6, leakage: 80e-9, ratio: 19 },
    test: 'Energise with a low voltage first.',
    unknown: [],
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
  const pack: BuildPack = {
    parts: [line('Switch', 1.25, 4), line('Resistor', null, 2), line('Pull-down', 0.048, 4)],
    csv: 'a,b',
    windings: [winding],
    thresholds: [
      { place: 'front', what: 'Trip', acts: '14.7 A', low: '14 A', high: '15.3 A', after: '2.5 µs', resets: 'by hand' },
    ],
    procedures: [
      { place: 'front', title: 'Try the trip', steps: ['Up to 11 A nothing happens.', 'At 14.7 A it trips.'] },
    ],
  }

  test('lists parts by the name of their stage, and sums what has a price', async () => {
    serve({ build: () => pack })
    show(<Build />)
    await screen.findByTestId('parts')
    expect(cellsOf(rowOf(/^Front Switch/))).toEqual(['Front', 'Switch', 'N100-8', 'a switch', '4', '1.25', '5.00'])
    expect(cellsOf(rowOf(/^Front Resistor/)).slice(-2)).toEqual(['', ''])
    // A price of one is told finely enough to add up.
    expect(cellsOf(rowOf(/^Front Pull-down/)).slice(-3)).toEqual(['4', '0.048', '0.19'])
    expect(cellsOf(rowOf(/^Priced parts/))).toEqual(['Priced parts, credits', '5.19'])
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
  test('says what trips and when, and what is tried on the bench, step by step', async () => {
    serve({ build: () => pack })
    show(<Build />)
    await screen.findByTestId('thresholds')
    expect(cellsOf(rowOf(/^Front Trip/))).toEqual(['Front', 'Trip', '14.7 A', '14 A', '15.3 A', '2.5 µs', 'by hand'])
    const steps = [...document.querySelectorAll('[data-procedure="front"] li')].map((li) => li.textContent)
    expect(steps).toEqual(['Up to 11 A nothing happens.', 'At 14.7 A it trips.'])
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
    const decisions = [
      { id: 1, revision: 2, title: 'Ferrite', reason: 'Lighter', numbers: {}, author: 'Ines', created: '' },
    ]
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
    const both = ['lineup', 'givens.load_1.rated_power', 'givens.battery.cells']
    const { workspace } = show(<ConflictDialog />, { save: { kind: 'conflict', theirs, both } })
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

describe('the pictures of a place', () => {
  const bar = (name: string, start: number, end: number | null, over = {}) => ({
    name,
    start,
    end,
    tone: 'copper' as const,
    ring: null,
    weak: false,
    strong: false,
    ...over,
  })
  const bars = (rows: ReturnType<typeof bar>[], over = {}): Picture => ({
    form: 'bars',
    title: 'Loss by place',
    unit: 'W',
    bars: rows,
    limits: [],
    note: '',
    from_zero: true,
    ...over,
  })
  const drawn = async (pictures: Picture[], over = {}) => {
    const asked = serve({ pictures: () => pictures })
    const view = show(<StagePicture place={place('front', { pictures: ['a'] })} />, over)
    await screen.findByText(pictures[0]!.title)
    return { ...view, asked }
  }
  const widths = (container: HTMLElement) =>
    [...container.querySelectorAll('svg rect')].map((r) => Number(r.getAttribute('width')))

  test('are asked for at the corner that is looked at, and only where the stage declares any', async () => {
    const { asked } = await drawn([bars([bar('battery', 0, 2)])], { corner: 1 })
    expect(asked.at(-1)).toMatchObject({ path: 'pictures', body: { place: 'front', corner: 'high' } })
    const none = serve({})
    show(<StagePicture place={place('front')} />)
    expect(none).toHaveLength(0)
  })
  test('bars from nothing are in proportion, named after places as people call them, and none stands for an unknown', async () => {
    const { container } = await drawn([bars([bar('load_1', 0, 8), bar('battery', 0, 2), bar('front', 0, null)])])
    const [first, second, ...rest] = widths(container)
    expect(first! / second!).toBeCloseTo(4, 5)
    expect(rest).toEqual([])
    expect(screen.getByText('Heater')).toBeTruthy()
    expect(screen.getByText('8 W')).toBeTruthy()
  })
  test('levels stand across the bars on the same scale, each with its number', async () => {
    const limits = [
      { name: 'cut-off', value: 21 },
      { name: 'restart', value: 24.5 },
    ]
    const { container } = await drawn([bars([bar('lowest full', 22.5, 24)], { unit: 'V', limits, from_zero: false })])
    const x = [...container.querySelectorAll('line.limit')].map((l) => Number(l.getAttribute('x1')))
    expect(widths(container)[0]! / (x[1]! - x[0]!)).toBeCloseTo(1.5 / 3.5, 5)
    expect(screen.getByText('cut-off 21 V')).toBeTruthy()
  })
  test('a curve, a note and a picture of which nothing is known', async () => {
    const plot: Picture = {
      form: 'plot',
      title: 'Charging',
      x_name: 'time',
      x_unit: 's',
      y_unit: 'V',
      series: [{ name: 'bank', x: [0, 1, 2], y: [0, 20, null], tone: 'copper', dashed: false }],
      limits: [{ name: 'source', value: 29 }],
      marks: [],
      y_from: 0,
      y_to: null,
      log: false,
      log_y: false,
      note: 'Mind the resistor.',
    }
    await drawn([plot, bars([bar('front', 0, null)], { title: 'Nothing known' })])
    expect(screen.getByLabelText('Charging').querySelector('path')!.getAttribute('d')).toMatch(/^M[\d.,]+L[\d.,]+$/)
    expect(screen.getByText('Mind the resistor.')).toBeTruthy()
    expect(screen.getByText(/Nothing to draw/)).toBeTruthy()
  })
})
