import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test, vi } from 'vitest'
import { Boundary } from '../src/ui/Boundary'

function Thrower({ error }: { error: Error | null }) {
  if (error) throw error
  return <p>all is well</p>
}

test('a view that throws leaves the page standing, says what is safe, and can be tried again', async () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  let error: Error | null = new Error('cannot read x')
  const Flaky = () => <Thrower error={error} />
  const { rerender } = render(
    <Boundary what="the scope" of="a">
      <Flaky />
    </Boundary>,
  )
  expect(screen.getByRole('alert').textContent).toContain('Rhombos stumbled over the scope. cannot read x.')
  expect(screen.getByRole('alert').textContent).toContain('What was saved is safe')
  error = null
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(screen.getByText('all is well')).toBeTruthy()
  error = new Error('again')
  rerender(
    <Boundary what="the scope" of="b">
      <Flaky />
    </Boundary>,
  )
  expect(screen.getByRole('alert')).toBeTruthy()
  error = null
  rerender(
    <Boundary what="the scope" of="c">
      <Flaky />
    </Boundary>,
  )
  expect(screen.getByText('all is well')).toBeTruthy()
})

test('a part that did not come is no fault of the view: the page can be loaded anew', () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  render(
    <Boundary what="this view">
      <Thrower error={new TypeError('Failed to fetch dynamically imported module: /assets/Build-x.js')} />
    </Boundary>,
  )
  expect(screen.getByRole('alert').textContent).toContain('could not be loaded')
  expect(screen.queryByRole('button', { name: 'Try again' })).toBeNull()
  expect(screen.getByRole('button', { name: 'Load the page anew' })).toBeTruthy()
})
