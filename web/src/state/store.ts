/** What a screen stands on, kept beside what is drawn: whoever reads a part of it is drawn anew only when that part is another. */
import { useLayoutEffect, useState, useSyncExternalStore } from 'react'

export class Store<T extends object> {
  private readonly told = new Set<() => void>()
  private readonly parts = new Map<string, Partial<T>>()
  constructor(private now: T) {}

  readonly get = (): T => this.now

  set(next: T): void {
    if (next === this.now) return
    this.now = next
    this.told.forEach((tell) => tell())
  }

  readonly subscribe = (tell: () => void) => {
    this.told.add(tell)
    return () => void this.told.delete(tell)
  }

  /** Some of its fields: the same object as long as each of them is the same. */
  part<K extends keyof T>(names: readonly K[]): Pick<T, K> {
    const key = names.join()
    const before = this.parts.get(key) as Pick<T, K> | undefined
    if (before && names.every((name) => Object.is(before[name], this.now[name]))) return before
    const part = Object.fromEntries(names.map((name) => [name, this.now[name]])) as Pick<T, K>
    this.parts.set(key, part as Partial<T>)
    return part
  }
}

/** A store that always holds `value`, for those below. */
export function useStoreOf<T extends object>(value: T): Store<T> {
  const [store] = useState(() => new Store(value))
  useLayoutEffect(() => store.set(value), [store, value])
  return store
}

export const useParts = <T extends object, K extends keyof T>(store: Store<T>, names: readonly K[]) =>
  useSyncExternalStore(store.subscribe, () => store.part(names))

/** A selection of several things, the same array as long as each of them is the same. */
export function shallowly<S, T>(select: (from: S) => T[]): (from: S) => T[] {
  let last: T[] = []
  return (from) => {
    const next = select(from)
    if (next.length !== last.length || next.some((each, i) => !Object.is(each, last[i]))) last = next
    return last
  }
}
