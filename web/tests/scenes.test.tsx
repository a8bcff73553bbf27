import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, test, vi } from 'vitest'
import { ScenesPicture } from '../src/pictures/ScenesPicture'
import type { Scene } from '../src/api/schema'
import { Exports } from '../src/ui/Exports'
import * as saving from '../src/ui/save'
import { show } from './sample'

const plot = (name: string, y_unit: string, y: number[]): Scene['plots'][number] => ({
  ...{
    form: 'plot',
    x_name: 'time',
    x_unit: 's',
    y_unit,
    limits: [],
    marks: [],
    y_from: 0,
    y_to: null,
    log: false,
    log_y: false,
  },
  series: [{ name, x: [0, 1, 2], y, tone: 'copper', dashed: false }],
  note: '',
})
const scenes: Scene[] = [
  {
    name: 'healthy start',
    plots: [plot('bus', 'V', [0, 20, 28]), plot('resistor', 'A', [4, 1, 0])],
    tracks: [
      { name: 'precharge relay', spans: [[0, 1.5]] },
      { name: 'fault', spans: [] },
    ],
    said: 'The contactor closes.',
    good: true,
  },
  {
    name: 'bus shorted',
    plots: [plot('bus', 'V', [0, 0, 0])],
    tracks: [
      { name: 'precharge relay', spans: [[0, 0.5]] },
      { name: 'fault', spans: [[0.5, 2]] },
    ],
    said: 'No rise.',
    good: false,
  },
]

describe('scenes', () => {
  test('the first is shown: its plots, what was switched, how it ends', () => {
    show(<ScenesPicture scenes={scenes} />)
    expect(screen.getByRole('status').textContent).toContain('The contactor closes.')
    expect(screen.getByRole('img', { name: 'healthy start: bus' })).toBeTruthy()
    expect(screen.getByRole('img', { name: 'healthy start: resistor' })).toBeTruthy()
    const relay = document.querySelector('[data-track="precharge relay"] rect')!
    // From the plot's left edge, three quarters of its width.
    expect(Number(relay.getAttribute('x'))).toBe(56)
    expect(Number(relay.getAttribute('width'))).toBeCloseTo(0.75 * (372 - 56 - 12))
    expect(document.querySelector('[data-track="fault"] rect')).toBeNull()
  })
  test('a fault that is chosen is played, and says that it is one', async () => {
    show(<ScenesPicture scenes={scenes} />)
    await userEvent.selectOptions(screen.getByLabelText('What happens'), 'bus shorted')
    expect(screen.getByRole('status').className).toBe('wrong')
    expect(within(screen.getByRole('status')).getByLabelText('fails')).toBeTruthy()
    expect(document.querySelector('[data-track="fault"] rect')!.getAttribute('fill')).toBe('var(--fail)')
  })
  test('without a figure there is nothing to play', () => {
    show(<ScenesPicture scenes={[]} />)
    expect(screen.getByText(/a figure it needs is unknown/)).toBeTruthy()
  })
})

describe('what a drawing is saved as', () => {
  test('an SVG of its own, with the look it has', async () => {
    const saved = vi.spyOn(saving, 'saveText').mockImplementation(() => undefined)
    show(
      <div id="box">
        <svg>
          <rect style={{ fill: 'rgb(1, 2, 3)' }} />
        </svg>
        <Exports name="A curve" svg={() => document.querySelector<SVGSVGElement>('#box svg')} csv={() => 'x,y'} />
      </div>,
    )
    await userEvent.click(screen.getByRole('button', { name: 'SVG' }))
    const [text, name, type] = saved.mock.lastCall!
    expect([name, type]).toEqual(['A curve.svg', 'image/svg+xml'])
    const file = new DOMParser().parseFromString(text, 'image/svg+xml')
    expect(file.querySelector('parsererror')).toBeNull()
    expect(file.documentElement.namespaceURI).toBe('http://www.w3.org/2000/svg')
    expect(file.querySelector('rect')!.getAttribute('style')).toContain('fill: rgb(1, 2, 3)')
    await userEvent.click(screen.getByRole('button', { name: 'CSV' }))
    expect(saved).toHaveBeenLastCalledWith('x,y', 'A curve.csv', 'text/csv')
  })
})
