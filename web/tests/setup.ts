/** What a browser has and the tests' document lacks; and nothing of one test is left for the next. */
import { cleanup } from '@testing-library/react'
import { afterEach, vi } from 'vitest'

class Still implements ResizeObserver {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
vi.stubGlobal('ResizeObserver', Still)
Element.prototype.scrollTo = () => undefined

afterEach(() => {
  cleanup()
  localStorage.clear()
  vi.restoreAllMocks()
})
