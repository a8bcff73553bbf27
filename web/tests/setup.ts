/** What a browser has and the tests' document lacks; and nothing of one test is left for the next. */
import { cleanup, configure } from '@testing-library/react'
import { afterEach, vi } from 'vitest'

// A machine that is shared may take seconds for what it does at once.
configure({ asyncUtilTimeout: 8000 })

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
