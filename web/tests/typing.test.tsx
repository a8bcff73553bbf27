import { act, fireEvent, render, renderHook, screen, waitFor } from '@testing-library/react'
import { useState } from 'react'
import { describe, expect, test, vi } from 'vitest'
import type { Design, Sheet } from '../src/api'
import { given } from '../src/state/moves'
import { useSolving } from '../src/state/solving'
import { Entry } from '../src/ui/Entry'
import { judged, sampleDesign, sampleSheet, serve, around, lineUpServed, sampleColumns } from './sample'

describe('a field', () => {
  function Field({ onValue }: { onValue: (v: number) => void }) {
    const [value, setValue] = useState(4700)
    const take = (v: number) => {
      setValue(v)
      onValue(v)
    }
    return <Entry label="Gate resistor" value={value} unit="Ω" low={1000} high={1e6} onValue={take} />
  }
  const read: Record<string, number> = { '5k6': 5600, '3,3 kΩ': 3300, '7': 7000, '7k': 7000, '47': 47 }
  const parse = async (body: unknown) => {
    const { text } = body as { text: string }
    // A short text takes long to read, so that an answer may come after that for what was typed later.
    await new Promise((resolve) => setTimeout(resolve, text === '7' ? 80 : 5))
    const value = read[text]
    if (value !== undefined) return { value }
    return new Response(JSON.stringify({ error: 'field', message: `“${text}” is no resistance` }), { status: 422 })
  }
  const open = () => {
    const asked = serve({ parse })
    const onValue = vi.fn()
    render(<Field onValue={onValue} />)
    return { asked, onValue, input: screen.getByLabelText<HTMLInputElement>('Gate resistor') }
  }
  const put = (input: HTMLElement, value: string) => fireEvent.change(input, { target: { value } })

  test('shows value and unit, and takes what people write', async () => {
    const { input, onValue } = open()
    expect(input.value).toBe('4.7 kΩ')
    input.focus()
    put(input, '5k6')
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(5600))
    act(() => input.blur())
    expect(input.value).toBe('5.6 kΩ')
  })
  test('is taken on leaving, on Enter and after a pause, once each; in between nothing is', async () => {
    const { input, onValue, asked } = open()
    act(() => input.focus())
    for (const words of ['5', '5k', '5k6']) put(input, words)
    await new Promise((resolve) => setTimeout(resolve, 100))
    expect(asked).toEqual([])
    act(() => input.blur())
    expect(input.value).toBe('5k6')
    await waitFor(() => expect(onValue).toHaveBeenCalledTimes(1))
    expect(input.value).toBe('5.6 kΩ')
    act(() => input.focus())
    put(input, '3,3 kΩ')
    fireEvent.keyDown(input, { key: 'Enter' })
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(3300))
    expect(document.activeElement).toBe(input)
    act(() => input.blur())
    await new Promise((resolve) => setTimeout(resolve, 900))
    expect(onValue).toHaveBeenCalledTimes(2)
  })
  test('Escape gives back the value that stood there on entering, also when another has been taken since', async () => {
    const { input, onValue } = open()
    act(() => input.focus())
    put(input, '5k6')
    fireEvent.keyDown(input, { key: 'Enter' })
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(5600))
    fireEvent.keyDown(input, { key: 'Escape' })
    expect(onValue).toHaveBeenLastCalledWith(4700)
    expect(input.value).toBe('4.7 kΩ')
  })
  test('a value that comes from elsewhere while the field has the focus is shown, and not overwritten on leaving', async () => {
    const asked = serve({ parse })
    const onValue = vi.fn()
    const { rerender } = render(<Entry label="Gate resistor" value={4700} unit="Ω" onValue={onValue} />)
    const input = screen.getByLabelText<HTMLInputElement>('Gate resistor')
    act(() => input.focus())
    rerender(<Entry label="Gate resistor" value={3300} unit="Ω" onValue={onValue} />)
    expect(input.value).toBe('3.3 kΩ')
    act(() => input.blur())
    await new Promise((resolve) => setTimeout(resolve, 50))
    expect([asked.length, onValue.mock.calls.length]).toEqual([0, 0])
  })
  test('words that were not taken when the page was loaded anew are taken then', async () => {
    serve({ parse })
    const onValue = vi.fn()
    const field = () =>
      render(<Entry id="gates.resistor" label="Gate resistor" value={4700} unit="Ω" onValue={onValue} />)
    const first = field()
    put(screen.getByLabelText('Gate resistor'), '5k6')
    first.unmount()
    expect(onValue).not.toHaveBeenCalled()
    field()
    expect(screen.getByLabelText<HTMLInputElement>('Gate resistor').value).toBe('5k6')
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(5600))
    expect(sessionStorage.getItem('rhombos-words-/-gates.resistor')).toBeNull()
  })
  test('a whole number stays whole', async () => {
    serve({ parse: () => ({ value: 8.5 }) })
    const onValue = vi.fn()
    render(<Entry label="Cells" value={8} unit="" whole onValue={onValue} />)
    const input = screen.getByLabelText<HTMLInputElement>('Cells')
    put(input, '8.5')
    fireEvent.keyDown(input, { key: 'Enter' })
    expect((await screen.findByRole('alert')).textContent).toBe('8.5 is no whole number')
    expect(input.getAttribute('aria-describedby')).toBe(screen.getByRole('alert').id)
    expect(onValue).not.toHaveBeenCalled()
  })
  test('words that nobody read, since the server was away, stay and are read when it is back', async () => {
    const { input, onValue } = open()
    const heard = vi.mocked(fetch)
    heard.mockRejectedValueOnce(new TypeError('Failed to fetch'))
    put(input, '5k6')
    fireEvent.keyDown(input, { key: 'Enter' })
    expect((await screen.findByRole('alert')).textContent).toContain('does not answer')
    fireEvent.blur(input)
    expect(input.value).toBe('5k6')
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(5600), { timeout: 4000 })
    expect(screen.queryByRole('alert')).toBeNull()
  }, 8000)
  test('names a mistake and keeps the words, also when it is left', async () => {
    const { input, onValue } = open()
    put(input, 'forty')
    expect((await screen.findByRole('alert')).textContent).toBe('“forty” is no resistance')
    fireEvent.blur(input)
    expect(input.value).toBe('forty')
    expect(input.getAttribute('aria-invalid')).toBe('true')
    expect(onValue).not.toHaveBeenCalled()
  })
  test('a value beyond its limits is named with them and not taken; the words stay', async () => {
    const { input, onValue } = open()
    put(input, '47')
    expect((await screen.findByRole('alert')).textContent).toBe('47\u2009Ω is outside 1\u2009kΩ … 1\u2009MΩ')
    expect(onValue).not.toHaveBeenCalled()
    fireEvent.blur(input)
    expect(input.value).toBe('47')
    put(input, '5k6')
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(5600))
    expect(screen.queryByRole('alert')).toBeNull()
    expect(input.value).toBe('5.6 kΩ')
  })
  test('gives up what is being typed on Escape', async () => {
    const { input } = open()
    put(input, 'forty')
    await screen.findByRole('alert')
    fireEvent.keyDown(input, { key: 'Escape' })
    expect(input.value).toBe('4.7 kΩ')
    expect(screen.queryByRole('alert')).toBeNull()
  })
  test('an answer that comes after a newer one is dropped', async () => {
    const { input, onValue } = open()
    put(input, '7')
    await new Promise((resolve) => setTimeout(resolve, 30))
    put(input, '7k')
    await waitFor(() => expect(onValue).toHaveBeenLastCalledWith(7000))
    await new Promise((resolve) => setTimeout(resolve, 120))
    expect(onValue).toHaveBeenCalledTimes(1)
  })
})

describe('solving', () => {
  const of = (design: Design): Sheet => {
    const sheet = sampleSheet()
    sheet.figures['front.turns'] = { values: [design.givens['load_1.rated_power']! / 100] }
    sheet.checks['front.voltage'] = judged([design.givens['load_1.rated_power']! > 500 ? 'fails' : 'holds'])
    return sheet
  }
  const watts = (n: number) => given('load_1.rated_power', n)(sampleDesign())
  const open = () =>
    renderHook(({ design }) => useSolving(design, null), {
      initialProps: { design: watts(300) },
      wrapper: around(null),
    })
  const answer = (body: unknown) => sampleColumns(of((body as { design: Design }).design))

  test('is asked again until somebody answers; what is wrong with the design itself is not', async () => {
    let away = true
    const asked = serve({
      ...lineUpServed(),
      solve: (body) => {
        if (away) throw new TypeError('Failed to fetch')
        return answer(body)
      },
    })
    const { result } = open()
    await waitFor(() => expect(result.current.away).toBe(true))
    away = false
    await waitFor(() => expect(result.current.sheet).toBeDefined(), { timeout: 4000 })
    expect([result.current.problem, result.current.away]).toEqual(['', false])
    const times = asked.filter((a) => a.path === 'solve').length
    await new Promise((resolve) => setTimeout(resolve, 2300))
    expect(asked.filter((a) => a.path === 'solve').length).toBe(times)
  }, 9000)
  test('tells what an edit changed, and lags behind it until then', async () => {
    serve({ ...lineUpServed(), solve: answer })
    const { result, rerender } = open()
    expect([result.current.solving, result.current.sheet]).toEqual([true, undefined])
    await waitFor(() => expect(result.current.solving).toBe(false))
    expect(result.current.changed).toEqual([])
    rerender({ design: watts(600) })
    expect(result.current.solving).toBe(true)
    await waitFor(() => expect(result.current.solving).toBe(false))
    expect(result.current.changed).toEqual([
      { key: 'front.voltage', kind: 'verdict', from: 'holds', to: 'fails' },
      { key: 'front.turns', kind: 'number', from: '3', to: '6' },
    ])
    expect(result.current.former['front.turns']).toBe(3)
  })
  test('an answer that comes after its question was replaced is dropped', async () => {
    serve({
      ...lineUpServed(),
      solve: async (body) => {
        const { design } = body as { design: Design }
        await new Promise((resolve) => setTimeout(resolve, design.givens['load_1.rated_power'] === 300 ? 80 : 5))
        return sampleColumns(of(design))
      },
    })
    const { result, rerender } = open()
    rerender({ design: watts(400) })
    await new Promise((resolve) => setTimeout(resolve, 150))
    expect(result.current.sheet?.figures['front.turns']?.values).toEqual([4])
    expect(result.current.solving).toBe(false)
  })
  test('what cannot be solved is told, and the last sheet stays', async () => {
    const refusal = () => new Response(JSON.stringify({ message: 'cells: 99 is beyond 32' }), { status: 422 })
    serve({
      ...lineUpServed(),
      solve: (body) => ((body as { design: Design }).design.givens['battery.cells'] ? refusal() : answer(body)),
    })
    const { result, rerender } = open()
    await waitFor(() => expect(result.current.sheet).toBeTruthy())
    const sheet = result.current.sheet
    rerender({ design: given('battery.cells', 99)(watts(300)) })
    await waitFor(() => expect(result.current.problem).toBe('cells: 99 is beyond 32'))
    expect(result.current.sheet).toBe(sheet)
    rerender({ design: watts(300) })
    await waitFor(() => expect(result.current.problem).toBe(''))
  })
})
