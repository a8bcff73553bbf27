import { describe, expect, it } from 'vitest'
import { more } from '../src/ui/Scroll'

describe('where more of what scrolls lies', () => {
  it('is nowhere when all of it is seen, up to what rounding makes of pixels', () => {
    expect(more(0, 300, 300)).toBe('')
    expect(more(0.6, 299.6, 300.4)).toBe('')
  })
  it('is on the right at first, on the left in the end, on both sides between', () => {
    expect(more(0, 300, 500)).toBe('right')
    expect(more(200, 300, 500)).toBe('left')
    expect(more(90, 300, 500)).toBe('left right')
  })
})
