/** The solved sheet below the frame, where there always is one; what reads a part of it is drawn anew only when that part changed. */
import { createContext, use, useLayoutEffect, useState, useSyncExternalStore, type ReactNode } from 'react'
import type { LineUp, Sheet } from '../api'

export interface Solved {
  meta: LineUp
  sheet: Sheet
  corner: number
  /** What figures were before the last edit, where it changed them. */
  former: Record<string, number | null>
}

/** Holds what is solved, and tells those who asked when it is another. */
class Store {
  private readonly told = new Set<() => void>()
  constructor(private now: Solved) {}
  readonly get = () => this.now
  readonly set = (next: Solved) => {
    this.now = next
    this.told.forEach((tell) => tell())
  }
  readonly subscribe = (tell: () => void) => {
    this.told.add(tell)
    return () => void this.told.delete(tell)
  }
}

const StoreContext = createContext<Store | null>(null)

interface Props extends Solved {
  children: ReactNode
}

export function SheetProvider({ children, meta, sheet, corner, former }: Props) {
  const [store] = useState(() => new Store({ meta, sheet, corner, former }))
  useLayoutEffect(() => store.set({ meta, sheet, corner, former }), [store, meta, sheet, corner, former])
  return <StoreContext value={store}>{children}</StoreContext>
}

/** A part of what is solved; `select` gives the same object as long as that part is the same. */
export function useSelected<T>(select: (solved: Solved) => T): T {
  const store = use(StoreContext)
  if (!store) throw new Error('there is no sheet here')
  return useSyncExternalStore(store.subscribe, () => select(store.get()))
}

const all = (solved: Solved) => solved

/** All of what is solved: drawn anew at every change. */
export const useSheet = (): Solved => useSelected(all)
