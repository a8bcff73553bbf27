import { fireEvent, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes, useLocation } from 'react-router'
import { describe, expect, test, vi } from 'vitest'
import Alone, { designOf } from '../src/screens/Alone'
import { Brief } from '../src/screens/brief/Brief'
import { Foot } from '../src/screens/project/Foot'
import { useKeys } from '../src/screens/project/useKeys'
import { lettersOn, switchLetters } from '../src/state/keys'
import { Changed } from '../src/ui/Changed'
import { Line } from '../src/ui/line/Line'
import {
  around,
  judged,
  place,
  sampleColumns,
  sampleDesign,
  sampleMeta,
  sampleSent,
  sampleSheet,
  sampleWorkspace,
  serve,
  show,
} from './sample'

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
    expect(screen.getByLabelText('oscillator on Front: holds')).toBeTruthy()
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
    await userEvent.click(screen.getByLabelText(/^Front .*: holds/))
    expect(screen.getByRole('status').textContent).toBe('/project/7/stages/front')
    fireEvent.keyDown(screen.getByLabelText('oscillator on Front: holds'), { key: 'Enter' })
    expect(screen.getByRole('status').textContent).toBe('/project/7/stages/oscillator')
  })
})

describe('the keys of a project', () => {
  const open = (path = '/project/7/stages/front') => {
    serve({ lineups: () => ['sample', 'other', 'third'].map((id) => ({ id, title: `Title of ${id}`, sample: false })) })
    const sample = sampleWorkspace({ design: sampleDesign({ lineup: 'third' }) })
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
  test('choose the corner, open dialogs and go on to the next line-up, round the end', async () => {
    const { press, workspace, dialog, last } = open()
    press('2')
    expect(workspace.setCorner).toHaveBeenLastCalledWith(1)
    for (const key of ['?', '/', 's']) press(key)
    expect(dialog.mock.calls.flat()).toEqual(['keys', 'finder', 'revision'])
    await waitFor(() => {
      press('f')
      expect(last().design.lineup).toBe('sample')
    })
  })
  test('undo and redo while a field that has the focus holds what was taken; letters do not', () => {
    const { workspace, dialog } = open()
    const field = screen.getByLabelText('field')
    field.focus()
    fireEvent.keyDown(field, { key: 's' })
    expect(dialog).not.toHaveBeenCalled()
    // What is being typed is the field's own to undo.
    fireEvent.keyDown(field, { key: 'z', ctrlKey: true })
    expect(workspace.undo).not.toHaveBeenCalled()
    field.dataset.clean = 'true'
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
  const asked: [string, string][] = [
    ['source', 'battery.chemistry'],
    ['source', 'battery.cells'],
    ['output', 'output.voltage'],
  ]
  const meta = sampleMeta({
    fields: asked.map(([group, key]) => ({ group, key, at_once: true, counted: null })),
    sums: [
      { title: 'Continuous', key: 'front.turns', group: 'sums', corner: 0 },
      { title: 'Peak', key: 'front.peak_voltage', group: 'sums', corner: 1 },
    ],
  })
  const suits = (verdict: 'holds' | 'tight' | 'fails', words: string, people = false) => ({ verdict, words, people })
  const fit = {
    suitability: () => ({
      heater: { sine: suits('holds', 'yes'), square: suits('holds', 'yes') },
      rectifier: { sine: suits('holds', 'yes'), square: suits('fails', 'no: the arc stays', true) },
    }),
  }

  test('asks for what the stages of the line-up declare, and shows their sums at the corner each speaks for', () => {
    serve(fit)
    show(<Brief />, { meta })
    expect(screen.getByText('Source')).toBeTruthy()
    expect(screen.queryByText('Surroundings')).toBeNull()
    expect(screen.getByLabelText<HTMLSelectElement>('Chemistry').value).toBe('lfp')
    expect(document.querySelector('[data-sum="front.peak_voltage"]')!.textContent).toBe('90V')
  })
  test('says of every load whether it suits, and what other waveforms could feed its kind', async () => {
    serve(fit)
    const design = sampleDesign({ choices: { 'load_1.type': 'rectifier' } })
    show(<Brief />, { meta, design })
    expect(await screen.findByText(/yes, crest not drawn/)).toBeTruthy()
    expect(screen.getByRole('row', { name: 'electronics yes no: the arc stays (people)' })).toBeTruthy()
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
})

describe('one stage alone', () => {
  const meta = sampleMeta({ places: [place('front')] })
  const stages = () => [{ name: 'front', title: 'Front', family: 'Front end', path: true, leads: ['Turns'] }]
  const sent = sampleSent(meta)
  const served = {
    stages,
    'lineups/front_alone?loads=': () => sent.meta,
    'stages/abc': () => sent.stages,
    solve: () => sampleColumns(sampleSheet(), meta),
  }
  const open = (path: string) =>
    render(
      <>
        <Routes>
          <Route path="/alone/:stage" element={<Alone />} />
        </Routes>
        <Where />
      </>,
      { wrapper: around(null, path) },
    )

  test('is the whole stage: ledger, verdicts and judgements, solved as a line-up of its own', async () => {
    const asked = serve(served)
    open('/alone/front')
    expect(await screen.findByText('Front, worked figures')).toBeTruthy()
    expect(document.querySelector('[data-check="front.voltage"]')).toBeTruthy()
    expect(asked.find((a) => a.path === 'solve')!.body).toMatchObject({
      place: 'front',
      design: { lineup: 'front_alone' },
    })
  })
  test('what was decided is kept in the address, and comes back from it', async () => {
    const pins = { 'front.turns': { value: 3, part: null, quantity: 1, reason: 'foil' } }
    const kept = encodeURIComponent(JSON.stringify({ givens: {}, choices: {}, pins }))
    const asked = serve(served)
    open(`/alone/front?design=${kept}`)
    await screen.findByText('Front, worked figures')
    expect(asked.find((a) => a.path === 'solve')!.body).toMatchObject({ design: { pins } })
    await userEvent.click(screen.getByRole('button', { name: 'Unpin' }))
    await waitFor(() => expect(screen.getAllByRole('status').at(-1)!.textContent).toBe('/alone/front'))
  })
  test('an address that was cut short begins anew', () => {
    expect(designOf('front', 'Front', '{"givens":{"a.b"').givens).toEqual({})
    expect(designOf('front', 'Front', '{"givens":{"a.b":3}}').givens).toEqual({ 'a.b': 3 })
  })
  test('a stage that is not known leads back', async () => {
    serve({ stages })
    open('/alone/flywheel')
    expect((await screen.findByText(/There is no stage/)).textContent).toContain('“flywheel”')
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
