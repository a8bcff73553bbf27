import { act, render } from '@testing-library/react'
import { describe, expect, test } from 'vitest'
import { shallowly, Store, useParts, useStoreOf } from '../src/state/store'

interface Both {
  left: number
  right: number
}

describe('a store', () => {
  test('gives the same part as long as each of its fields is the same', () => {
    const store = new Store<Both>({ left: 1, right: 1 })
    const before = store.part(['left'])
    store.set({ left: 1, right: 2 })
    expect(store.part(['left'])).toBe(before)
    expect(store.part(['left', 'right'])).toEqual({ left: 1, right: 2 })
    store.set({ left: 2, right: 2 })
    expect(store.part(['left'])).toEqual({ left: 2 })
  })
  test('draws anew who reads what changed, and nobody else', () => {
    const drawn = { left: 0, right: 0 }
    const store = new Store<Both>({ left: 1, right: 1 })
    const Reader = ({ name }: { name: keyof Both }) => {
      drawn[name]++
      return <>{useParts(store, [name])[name]}</>
    }
    const { container } = render(
      <>
        <Reader name="left" />
        <Reader name="right" />
      </>,
    )
    act(() => store.set({ left: 1, right: 7 }))
    expect(container.textContent).toBe('17')
    expect(drawn).toEqual({ left: 1, right: 2 })
  })
  test('holds what its owner is given, from the first drawing on', () => {
    const seen: number[] = []
    const Owner = ({ value }: { value: Both }) => {
      const store = useStoreOf(value)
      return <Below store={store} />
    }
    const Below = ({ store }: { store: Store<Both> }) => {
      seen.push(useParts(store, ['left']).left)
      return null
    }
    const { rerender } = render(<Owner value={{ left: 1, right: 1 }} />)
    rerender(<Owner value={{ left: 5, right: 1 }} />)
    expect([seen[0], seen.at(-1)]).toEqual([1, 5])
  })
  test('a selection of several stays the same array until one of them is another', () => {
    const select = shallowly((from: { all: string[] }) => from.all.filter((word) => word !== 'no'))
    const first = select({ all: ['a', 'no', 'b'] })
    expect(select({ all: ['a', 'b', 'no'] })).toBe(first)
    expect(select({ all: ['a'] })).toEqual(['a'])
  })
})
