import { fireEvent, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes, useLocation } from 'react-router'
import { describe, expect, test, vi } from 'vitest'
import type { AloneStage } from '../src/api'
import Alone, { ports, usual } from '../src/screens/Alone'
import { Brief } from '../src/screens/brief/Brief'
import { verdictOf } from '../src/screens/brief/LoadTable'
import { Foot } from '../src/screens/project/Foot'
import { useKeys } from '../src/screens/project/useKeys'
import { newDesign, NewProject } from '../src/screens/shelf/NewProject'
import { lettersOn, switchLetters } from '../src/state/keys'
import { Changed } from '../src/ui/Changed'
import { Line } from '../src/ui/line/Line'
import { around, figure, judged, sampleDesign, sampleMeta, sampleSheet, sampleWorkspace, serve, show } from './sample'

function Where() {
  const { pathname, search } = useLocation()
  return <output>{pathname + search}</output>
}

describe('the line', () => {
  test('shows every stage of the path with its verdict and telling words, and what hangs on it', () => {
    show(<Line />, { corner: 1 })
    const spots = [...document.querySelectorAll<SVGGElement>('[data-place]')]
    expect(spots.map((s) => [s.dataset['place'], s.dataset['verdict']])).toEqual([
      ['battery', 'holds'],
      ['front', 'tight'],
      ['oscillator', 'holds'],
      ['output', 'holds'],
    ])
    expect(screen.getByText('8 × LiFePO4')).toBeTruthy()
    expect(screen.getByLabelText('Oscillator on Front: holds')).toBeTruthy()
  })
  test('is labelled with volts and amperes, and thicker where more flows', () => {
    show(<Line />)
    const wires = [...document.querySelectorAll<SVGLineElement>('.conductor')]
    expect(wires.map((w) => w.dataset['current'])).toEqual(['4', '230'])
    const width = (w: SVGLineElement) => Number(w.getAttribute('stroke-width'))
    expect(width(wires[1]!)).toBeGreaterThan(width(wires[0]!))
    expect(screen.getByText('±230 V · 230 A')).toBeTruthy()
  })
  test('leads to a stage by mouse and by key', async () => {
    show(
      <>
        <Line />
        <Where />
      </>,
    )
    await userEvent.click(screen.getByLabelText('Front: holds'))
    expect(screen.getByRole('status').textContent).toBe('/project/7/stages/front')
    fireEvent.keyDown(screen.getByLabelText('Oscillator on Front: holds'), { key: 'Enter' })
    expect(screen.getByRole('status').textContent).toBe('/project/7/stages/oscillator')
  })
})

describe('the keys of a project', () => {
  const open = (path = '/project/7/stages/front') => {
    const sample = sampleWorkspace({ design: sampleDesign({ lineup: 'ferrite_bridge_link_bridge' }) })
    const dialog = vi.fn()
    function Screen() {
      useKeys(dialog)
      return (
        <>
          <input aria-label="field" />
          <Where />
        </>
      )
    }
    render(<Screen />, { wrapper: around(sample.workspace, path) })
    const where = () => screen.getByRole('status').textContent
    const press = (key: string, over = {}) => fireEvent.keyDown(document.body, { key, ...over })
    return { ...sample, dialog, where, press }
  }
  test('walk the line both ways and round its ends', () => {
    const { press, where } = open()
    const walked = [']', ']', ']', '[', '['].map((key) => {
      press(key)
      return where()!.split('/').at(-1)
    })
    expect(walked).toEqual(['oscillator', 'output', 'battery', 'output', 'oscillator'])
  })
  test('choose the corner, open dialogs and swap the front end', () => {
    const { press, workspace, dialog, last } = open()
    press('2')
    expect(workspace.setCorner).toHaveBeenLastCalledWith(1)
    for (const key of ['?', '/', 's']) press(key)
    expect(dialog.mock.calls.flat()).toEqual(['keys', 'finder', 'revision'])
    press('f')
    expect(last().design.lineup).toBe('ferrite_push_pull_link_bridge')
  })
  test('undo and redo also while a field has the focus; letters do not', () => {
    const { workspace, dialog } = open()
    const field = screen.getByLabelText('field')
    field.focus()
    fireEvent.keyDown(field, { key: 's' })
    expect(dialog).not.toHaveBeenCalled()
    fireEvent.keyDown(field, { key: 'z', ctrlKey: true })
    expect(workspace.undo).toHaveBeenCalledTimes(1)
    expect(document.activeElement).not.toBe(field)
    fireEvent.keyDown(document.body, { key: 'Z', ctrlKey: true, shiftKey: true })
    fireEvent.keyDown(document.body, { key: 'y', metaKey: true })
    expect(workspace.redo).toHaveBeenCalledTimes(2)
  })
  test('single letters can be switched off', () => {
    const { press, dialog } = open()
    switchLetters(false)
    expect(lettersOn()).toBe(false)
    press('s')
    expect(dialog).not.toHaveBeenCalled()
  })
})

describe('the brief', () => {
  const keys = ['battery.capacity', 'battery.cell_resistance', 'input.cable_length', 'output.rated_output_voltage']
  const others = [
    'output.ambient_temperature',
    'output.output_frequency',
    'output.output_voltage_tolerance',
    'output.thd_limit',
  ]
  const sums = ['rated_active_power', 'rated_apparent_power', 'arithmetic_apparent_power', 'surge_apparent_power']
  const all = [...keys, ...others, ...[...sums, 'surge_active_power', 'surge_time'].map((s) => `output.${s}`)]
  const meta = sampleMeta()
  for (const key of all) meta.figures[key] = figure(key, 'W', { kind: 'given' })
  const fit = {
    suitability: () => ({ heater: { sine: 'yes', square: 'yes' }, rectifier: { sine: 'yes', square: 'no' } }),
  }

  test('says of every load whether it suits, and what other waveforms could feed its kind', async () => {
    serve(fit)
    const design = sampleDesign({ choices: { 'load_1.type': 'rectifier' } })
    show(<Brief />, { meta, design })
    expect(await screen.findByText(/yes, crest not drawn/)).toBeTruthy()
    expect(screen.getByRole('row', { name: 'electronics yes no' })).toBeTruthy()
  })
  test('the only load cannot be removed, one of two can', async () => {
    serve(fit)
    const { unmount } = show(<Brief />, { meta })
    expect(screen.queryByRole('button', { name: /^Remove/ })).toBeNull()
    unmount()
    const loads = [...sampleDesign().loads, { place: 'load_2', title: 'Saw' }]
    const { last } = show(<Brief />, { meta, design: sampleDesign({ loads }) })
    await userEvent.click(screen.getByRole('button', { name: 'Remove Heater' }))
    expect(last().design.loads.map((l) => l.title)).toEqual(['Saw'])
    expect(last().design.givens).toEqual({})
  })
  test('what a maker states is pinned with that reason', async () => {
    serve({ ...fit, parse: () => ({ value: 0.9 }) })
    const { last, edit } = show(<Brief />, { meta })
    fireEvent.change(screen.getByLabelText('Power factor of Heater'), { target: { value: '0.9' } })
    await waitFor(() => expect(edit).toHaveBeenCalled())
    expect(last().design.pins['load_1.power_factor']).toMatchObject({ value: 0.9, reason: 'stated by the maker' })
  })
  test.each([
    ['yes', 'holds'],
    ['no: it overheats', 'fails'],
    ['with care', 'tight'],
    ['', 'unknown'],
  ])('“%s” shows as %s', (word, verdict) => {
    expect(verdictOf(word)).toBe(verdict)
  })
})

describe('one stage alone', () => {
  const input = (name: string, kind: string, suggested: string, unit = 'V') => ({
    name,
    kind,
    title: name,
    unit,
    symbol: '',
    sentence: '',
    suggested,
  })
  const stage: AloneStage = {
    name: 'clamp',
    title: 'Clamp',
    path: false,
    figures: [{ name: 'clamp_resistor', title: 'Clamp resistor', unit: 'Ω', symbol: 'R_c', kind: 'build' }],
    inputs: [
      input('input_voltage', 'port', '24 V'),
      input('ambient', 'port', '25 °C', 'K_abs'),
      input('drop', 'given', '1 V'),
    ],
  }
  test('offers its ports, and whatever the server misses besides', () => {
    const asked = ports(stage, {
      input_voltage: { sentence: 'a port', unit: 'V' },
      leak_energy: { sentence: 'Energy of the leakage', unit: 'J' },
      ratio: { sentence: 'Turns', unit: '' },
    })
    expect(asked.map((p) => [p.name, p.unit])).toEqual([
      ['input_voltage', 'V'],
      ['ambient', 'K_abs'],
      ['leak_energy', 'J'],
      ['ratio', ''],
    ])
  })
  test('usual values come as they would be typed, and what has none is left out', () => {
    expect(usual([...stage.inputs, input('free', 'port', '')])).toEqual({
      input_voltage: '24 V',
      ambient: '25 °C',
      drop: '1 V',
    })
  })
  test('asks for what is missing, fills it with usual values, keeps what was typed, and answers', async () => {
    serve({
      stages: () => [stage],
      work: (body) => {
        const { values } = body as { values: Record<string, string> }
        const missing = Object.fromEntries(
          ['input_voltage', 'ambient'].filter((n) => !values[n]).map((n) => [n, { sentence: n, unit: '' }]),
        )
        return {
          unit: 'Ω',
          text: Object.keys(missing).length ? '' : `${values['input_voltage']} → 470 Ω`,
          missing,
          unused: [],
          shorter: [],
          used: {},
          formula: 'R_c',
          numbers: '',
          sentence: 'What burns the leakage.',
          source: '6.1',
        }
      },
    })
    render(
      <Routes>
        <Route path="/alone/:stage" element={<Alone />} />
      </Routes>,
      { wrapper: around(null, '/alone/clamp') },
    )
    expect(await screen.findByText(/^needs 2 more: input voltage, ambient\. Until then usual values/)).toBeTruthy()
    expect(screen.getByText('24 V → 470 Ω').parentElement!.className).toBe('quiet')
    await userEvent.type(screen.getByLabelText('input_voltage'), '48')
    await screen.findByText(/^needs 1 more: ambient/)
    await userEvent.click(screen.getByRole('button', { name: 'Fill with usual values' }))
    await waitFor(() => expect(screen.queryByText(/^needs/)).toBeNull())
    expect(screen.getByText('48 → 470 Ω').parentElement!.className).toBe('')
    expect(screen.getByLabelText<HTMLInputElement>('ambient').value).toBe('25 °C')
  })
  test('offers a field for whatever is missing besides its ports, and no number of another figure meanwhile', async () => {
    const more = { ...stage.figures[0]!, name: 'clamp_loss', title: 'Clamp loss', symbol: 'P_c' }
    serve({
      stages: () => [{ ...stage, figures: [...stage.figures, more] }],
      work: (body) => {
        const { figure, values } = body as { figure: string; values: Record<string, string> }
        const wanted = figure === 'clamp.clamp_loss' ? 'leak_energy' : 'input_voltage'
        const missing = values[wanted] ? {} : { [wanted]: { sentence: 'Energy of the leakage', unit: 'J' } }
        const text = values[wanted] ? `worked from ${values[wanted]}` : ''
        return {
          unit: '',
          text,
          missing,
          unused: ['drop'],
          shorter: ['drop'],
          used: {},
          formula: 'x',
          numbers: '',
          sentence: '',
          source: '',
        }
      },
    })
    render(
      <Routes>
        <Route path="/alone/:stage" element={<Alone />} />
      </Routes>,
      { wrapper: around(null, '/alone/clamp') },
    )
    expect(await screen.findByText('worked from 24 V')).toBeTruthy()
    await userEvent.selectOptions(screen.getByLabelText('Figure'), 'Clamp loss')
    const field = await screen.findByLabelText('leak energy')
    expect(screen.queryByText('worked from 24 V')).toBeNull()
    await userEvent.type(field, '2 mJ')
    expect(await screen.findByText('worked from 2 mJ')).toBeTruthy()
  })
  test('a stage that is not known leads back', async () => {
    serve({ stages: () => [stage] })
    render(
      <Routes>
        <Route path="/alone/:stage" element={<Alone />} />
      </Routes>,
      { wrapper: around(null, '/alone/flywheel') },
    )
    expect((await screen.findByText(/There is no stage/)).textContent).toContain('“flywheel”')
  })
})

describe('a new project', () => {
  test('begins with what was typed, read as people write it', async () => {
    const asked = serve({
      [`lineups/${newDesign('', 1, 1, '').lineup}?loads=load_1`]: () => sampleMeta(),
      parse: (body) => ({ value: (body as { text: string }).text === '1k5' ? 1500 : 8 }),
      projects: () => ({ id: 12 }),
    })
    const page = (
      <>
        <NewProject open onClose={vi.fn()} />
        <Where />
      </>
    )
    render(page, { wrapper: around(null) })
    await userEvent.type(await screen.findByLabelText('What is it for'), ' Pier lamp ')
    const watts = screen.getByLabelText('First load, watts')
    await userEvent.clear(watts)
    await userEvent.type(watts, '1k5')
    await userEvent.selectOptions(screen.getByLabelText('which is a'), 'electronics')
    await userEvent.click(screen.getByRole('button', { name: 'Make it' }))
    await waitFor(() => expect(screen.getByText('/project/12/brief')).toBeTruthy())
    expect(asked.at(-1)).toMatchObject({
      path: 'projects',
      body: { title: 'Pier lamp', design: newDesign('Pier lamp', 1500, 8, 'rectifier') },
    })
  })
})

describe('the strip and the foot', () => {
  test('tell what an edit changed and lead back', async () => {
    const changed = [
      { key: 'front.voltage', kind: 'verdict' as const, from: 'holds', to: 'fails' },
      { key: 'front.switch', kind: 'part' as const, from: '1 × N60', to: '2 × N60' },
    ]
    const { workspace } = show(<Changed />, { changed, lastEdit: 'Cells to 7', canUndo: true })
    expect(screen.getByTestId('changed').textContent).toContain('Front, voltage of the switch: holds → fails')
    expect(screen.getByTestId('changed').textContent).toContain('Front, switch: 1 × N60 → 2 × N60')
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }))
    expect(workspace.undo).toHaveBeenCalled()
  })
  test('count the verdicts, unknown ones only where there are any', () => {
    const { unmount } = show(<Foot />, {}, '/project/7/stages/front')
    expect(screen.getByTestId('summary').textContent).toBe('solved in 4 ms · 0 hold · 1 tight · 0 fail')
    expect(screen.getByText('make equal to …', { exact: false })).toBeTruthy()
    unmount()
    const sheet = sampleSheet({ checks: { a: judged(['unknown']), b: judged(['holds']) } })
    show(<Foot />, { sheet }, '/project/7/scope')
    expect(screen.getByTestId('summary').textContent).toContain('1 hold · 0 tight · 0 fail · 1 unknown')
    expect(screen.queryByText('make equal to …', { exact: false })).toBeNull()
  })
})
