import { fireEvent, render, screen } from '@testing-library/react'
import { describe, expect, test, vi } from 'vitest'
import type { Drawn, DrawnPart } from '../src/api/schema'
import { Drawing } from '../src/schematic/Drawing'

const part = (name: string, x: number, over: Partial<DrawnPart> = {}): DrawnPart => ({
  kind: 'resistor',
  name,
  title: name,
  start: [x, 0],
  end: [x, 5],
  text: '10 Ω',
  nodes: ['0', 'a'],
  figure: null,
  verdict: 'holds',
  neighbour: false,
  ...over,
})
const circuit = (parts: DrawnPart[]): Drawn => ({
  left: 0,
  right: 12,
  top: 0,
  bottom: 5,
  parts,
  wires: [
    [
      [0, 0],
      [12, 0],
    ],
  ],
  dots: [],
  grounds: [[0, 5]],
  nodes: [],
  looks: [],
  beside: [],
})
const show = (over: Partial<Parameters<typeof Drawing>[0]> = {}) =>
  render(
    <Drawing
      svg={{ current: null }}
      drawn={circuit([part('one', 0), part('gone', 4, { kind: 'wire', text: '' }), part('other', 8)])}
      probes={[]}
      open={() => undefined}
      chosen=""
      label="A circuit"
      {...over}
    />,
  )

describe('a circuit', () => {
  test('draws a wire where a part is not fitted, and no button', () => {
    show()
    expect(screen.getAllByRole('button').map((b) => b.getAttribute('data-part'))).toEqual(['one', 'other'])
    expect(screen.getByText('gone').tagName).toBe('title')
  })
  test('is walked past what is not there', () => {
    show()
    const one = screen.getAllByRole('button')[0]!
    one.focus()
    fireEvent.keyDown(one, { key: 'ArrowRight' })
    expect(document.activeElement?.getAttribute('data-part')).toBe('other')
  })
  test('on the sheet of the whole names its stages and says where a row goes on', () => {
    const open = vi.fn()
    show({
      open,
      frames: [{ place: 'input', title: 'Input', left: 0, right: 12, top: 0, bottom: 5 }],
      tags: [{ at: [12, 0], text: '+ to DC link', ends: true }],
    })
    expect(screen.getByText('Input')).toBeTruthy()
    expect(screen.getByText('+ to DC link').getAttribute('text-anchor')).toBe('start')
    fireEvent.click(screen.getAllByRole('button')[1]!)
    expect(open).toHaveBeenCalledWith(expect.objectContaining({ name: 'other' }))
  })
  test('what is bought beside it is a box that opens its figure, and makes room under the circuit', () => {
    const open = vi.fn()
    const box = (title: string) => ({ title, text: '0.75 K/W', quantity: 2, figure: 'front.sink_resistance' })
    const drawn = circuit([part('one', 0), part('other', 8)])
    const { container, unmount } = show({ drawn })
    const height = (of: Element) => Number(of.querySelector('svg')!.getAttribute('viewBox')!.split(' ')[3])
    const alone = height(container)
    unmount()
    const { container: more } = show({ open, drawn: { ...drawn, beside: ['a', 'b', 'c', 'd', 'e'].map(box) } })
    const first = screen.getByRole('button', { name: 'a, 2 × 0.75 K/W, beside the circuit' })
    fireEvent.keyDown(first, { key: 'Enter' })
    expect(open).toHaveBeenCalledWith({ name: 'a', figure: 'front.sink_resistance' })
    const rows = new Set([...more.querySelectorAll('.beside rect')].map((r) => r.getAttribute('y')))
    expect(rows.size).toBe(2)
    expect(height(more) - alone).toBe(100)
  })
})
