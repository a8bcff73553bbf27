import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useLocation } from 'react-router'
import { afterEach, describe, expect, test, vi } from 'vitest'
import type { ProjectRow } from '../src/api'
import { loadList } from '../src/screens/shelf/loadList'
import { NewProject } from '../src/screens/shelf/NewProject'
import { Projects } from '../src/screens/shelf/Projects'
import { Toasts, toaster } from '../src/ui/toasts'
import { around, figure, lineUpServed, sampleDesign, sampleMeta, serve } from './sample'

const TYPES = {
  heater: 'resistive heater',
  filament_lamp: 'filament lamp',
  induction_motor: 'induction motor (compressor)',
}
const read = (text: string) => loadList(text, TYPES, 'heater')

describe('a load list', () => {
  test.each([
    ['Lamp, 60 W', 'Lamp', '60 W', 1, 'heater'],
    ['Lamp, 1,2 kW', 'Lamp', '1,2 kW', 1, 'heater'],
    ['Lamps\t40\t6\tfilament lamp', 'Lamps', '40', 6, 'filament_lamp'],
    ['Freezer; 120 W; x2; compressor', 'Freezer', '120 W', 2, 'induction_motor'],
    ['Heizgerät im Gerätehaus;350', 'Heizgerät im Gerätehaus', '350', 1, 'heater'],
    ['3 ×, Lamp, 40 W, filament_lamp', 'Lamp', '40 W', 3, 'filament_lamp'],
    ['150 W', 'Load 1', '150 W', 1, 'heater'],
    // What is named without a type is of the type that such a thing has as a rule; what tells two, or one that is not there, of the usual one.
    ['Chest freezer, 120 W', 'Chest freezer', '120 W', 1, 'induction_motor'],
    ['Air-conditioner, 900 W', 'Air-conditioner', '900 W', 1, 'induction_motor'],
    ['Freezer; 120 W; filament lamp', 'Freezer', '120 W', 1, 'filament_lamp'],
    ['Fan heater, 2 kW', 'Fan heater', '2 kW', 1, 'heater'],
    ['Laptop, 65 W', 'Laptop', '65 W', 1, 'heater'],
    ['Fantasy, 10 W', 'Fantasy', '10 W', 1, 'heater'],
  ])('%s', (line, title, watts, count, type) => {
    expect(read(line)).toEqual({ rows: [{ line: 1, title, watts, count, type }], wrong: [] })
  })
  test('a table with its headings, empty lines and all', () => {
    const { rows, wrong } = read('Name\tWatts\tPieces\r\nLamp\t40\t2\r\n\r\nOven\t900\t1\r\n')
    expect(wrong).toEqual([])
    expect(rows.map((r) => [r.line, r.title, r.watts, r.count])).toEqual([
      [2, 'Lamp', '40', 2],
      [4, 'Oven', '900', 1],
    ])
  })
  test('tells by its line what it cannot read', () => {
    expect(read('Lamp, 40 W\nKettle').wrong).toEqual(['line 2: “Kettle” says no watts; write “Kettle, 60 W”'])
    expect(read('Lamp, 40 W, of brass').wrong[0]).toContain('line 1: “of brass”')
    expect(read(' \n').wrong[0]).toContain('at least one')
    expect(read(Array(25).fill('Lamp, 40 W').join('\n')).wrong[0]).toContain('25 loads')
  })
})

function Where() {
  return <output>{useLocation().pathname}</output>
}

describe('a new project', () => {
  const begin = (briefs: unknown[] = []) => {
    const meta = sampleMeta({
      fields: [
        { group: 'source', key: 'front.choice', at_once: true, counted: null },
        {
          group: 'source',
          key: 'battery.cells',
          at_once: true,
          counted: { title: 'Nominal volts', unit: 'V', by: 'front.choice', each: { small: 2, large: 3.25 } },
        },
        { group: 'output', key: 'output.voltage', at_once: false, counted: null },
      ],
    })
    meta.choices['front.choice'] = {
      ...meta.choices['load_1.type']!,
      title: 'Chemistry',
      default: 'large',
      options: { small: 'small ones', large: 'large ones' },
    }
    meta.figures['battery.cells'] = figure('battery.cells', '', {
      kind: 'given',
      whole: true,
      default: 8,
      low: 1,
      high: 200,
    })
    const values: Record<string, number> = { '1k5': 1500, '300 W': 300, '51,2': 51.2, '7': 7 }
    const asked = serve({
      ...lineUpServed(meta),
      briefs: () => briefs,
      parse: (body) => ({ value: values[(body as { text: string }).text] }),
      opening: () => ({ lineup: 'computed', title: 'Computed', sentence: 'Computed: by the brief.' }),
      projects: () => ({ id: 12 }),
    })
    const page = (
      <>
        <NewProject open onClose={vi.fn()} />
        <Where />
      </>
    )
    render(page, { wrapper: around(null) })
    return asked
  }
  const make = () => userEvent.click(screen.getByRole('button', { name: 'Make it' }))
  const retype = async (label: string | RegExp, text: string) => {
    const field = await screen.findByLabelText(label)
    await userEvent.clear(field)
    await userEvent.type(field, text)
  }

  test('begins with what was typed, read as people write it; the number of cells by their volts', async () => {
    const asked = begin()
    await userEvent.type(await screen.findByLabelText('What is it for'), ' Pier lamp ')
    expect(await screen.findByLabelText('or nominal volts')).toHaveProperty('value', '26 V')
    expect(screen.queryByLabelText('Voltage')).toBeNull()
    await retype(/^Loads/, 'Oven, 1k5, ×2')
    await retype('or nominal volts', '51,2')
    await make()
    await waitFor(() => expect(screen.getByText('/project/12/brief')).toBeTruthy())
    const { design, message } = asked.at(-1)!.body as { design: ReturnType<typeof sampleDesign>; message: string }
    expect(design.title).toBe('Pier lamp')
    expect([design.lineup, message]).toEqual(['computed', 'Computed: by the brief.'])
    expect(design.loads).toEqual([{ place: 'load_1', title: 'Oven' }])
    expect(design.givens).toEqual({ 'battery.cells': 16, 'load_1.rated_power': 1500, 'load_1.count': 2 })
  })
  test('another chemistry makes other volts, and the number of cells stays', async () => {
    const asked = begin()
    await userEvent.type(await screen.findByLabelText('What is it for'), 'Pier')
    await retype('Cells', '7')
    await userEvent.selectOptions(screen.getByLabelText('Chemistry'), 'small ones')
    await waitFor(() => expect(screen.getByLabelText('or nominal volts')).toHaveProperty('value', '14 V'))
    await make()
    await waitFor(() => expect(screen.getByText('/project/12/brief')).toBeTruthy())
    expect(asked.at(-1)!.body).toMatchObject({
      design: { givens: { 'battery.cells': 7 }, choices: { 'front.choice': 'small' } },
    })
  })
  test('a line-up that somebody chooses is taken without asking', async () => {
    const asked = begin()
    await userEvent.type(await screen.findByLabelText('What is it for'), 'Pier')
    const select = await screen.findByLabelText('Line-up to begin with')
    await waitFor(() => expect(select.querySelectorAll('option').length).toBeGreaterThan(1))
    await userEvent.selectOptions(select, select.querySelectorAll('option')[1]!)
    await make()
    await waitFor(() => expect(screen.getByText('/project/12/brief')).toBeTruthy())
    expect(asked.filter((a) => a.path === 'opening')).toEqual([])
    expect((asked.at(-1)!.body as { design: { lineup: string } }).design.lineup).not.toBe('computed')
  })
  test('a load that cannot be read is told by its line, and nothing is made', async () => {
    const asked = begin()
    await userEvent.type(await screen.findByLabelText('What is it for'), 'Pier')
    await retype(/^Loads/, 'Kettle')
    await make()
    expect((await screen.findByRole('alert')).textContent).toContain('line 1: “Kettle” says no watts')
    expect(asked.filter((a) => a.path === 'projects')).toEqual([])
  })
  test('or begins from a brief that is there, under its own name', async () => {
    const asked = begin([sampleDesign({ title: 'Ridge hut' })])
    await userEvent.type(await screen.findByLabelText('What is it for'), 'Mine')
    await screen.findByText('Ridge hut')
    await userEvent.selectOptions(screen.getByLabelText('Begin from'), 'Ridge hut')
    expect(screen.getByText(/Heater: 300 W/)).toBeTruthy()
    await make()
    await waitFor(() =>
      expect(asked.at(-1)!.body).toMatchObject({ title: 'Mine', design: { title: 'Mine', lineup: 'sample' } }),
    )
  })
})

const row = (id: number, title: string, over: Partial<ProjectRow> = {}): ProjectRow => ({
  id,
  title,
  head: 1,
  message: 'First sheet',
  created: `2026-01-0${id}T10:00:00`,
  touched: `2026-02-0${5 - id}T10:00:00`,
  standing: 'shelf',
  ...over,
})

describe('the projects', () => {
  afterEach(() => toaster.remove())
  const open = (rows: ProjectRow[]) => {
    const asked = serve({
      projects: () => rows,
      ...Object.fromEntries(
        rows.flatMap((r) => [
          [`projects/${r.id}`, () => r],
          [`projects/${r.id}/copies`, () => ({ id: 9 })],
        ]),
      ),
    })
    render(
      <>
        <Projects />
        <Toasts />
      </>,
      { wrapper: around(null) },
    )
    return asked
  }
  const titles = () => screen.getAllByRole('link').map((a) => a.textContent)
  const more = async (title: string, what: string) => {
    await userEvent.click(await screen.findByRole('button', { name: `More for ${title}` }))
    await userEvent.click(await screen.findByRole('menuitem', { name: what }))
  }

  test('are found by name or message and sorted as wanted; what is put away or deleted is folded', async () => {
    open([
      row(1, 'Pier'),
      row(2, 'Barn', { message: 'Two kettles' }),
      row(3, 'Attic', { standing: 'away' }),
      row(4, 'Mill', { standing: 'deleted' }),
    ])
    await screen.findByText('Pier')
    expect(titles().slice(0, 2)).toEqual(['Pier', 'Barn'])
    expect(screen.getByText('Put away 1')).toBeTruthy()
    expect(screen.getByText('Deleted 1')).toBeTruthy()
    await userEvent.selectOptions(screen.getByLabelText(/sorted by/), 'name')
    expect(titles().slice(0, 2)).toEqual(['Barn', 'Pier'])
    await userEvent.type(screen.getByLabelText('Find a project'), 'kettles')
    expect(titles()).toEqual(['Barn'])
    await userEvent.type(screen.getByLabelText('Find a project'), ' blue')
    expect(screen.getByText(/No project is called/)).toBeTruthy()
  })
  test('are deleted with a way back', async () => {
    const asked = open([row(1, 'Pier')])
    await more('Pier', 'Delete')
    const sent = () => asked.filter((a) => a.path === 'projects/1').map((a) => a.body)
    await waitFor(() => expect(sent()).toEqual([{ standing: 'deleted' }]))
    await screen.findByText('“Pier” is deleted')
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }))
    await waitFor(() => expect(sent().at(-1)).toEqual({ standing: 'shelf' }))
  })
})
