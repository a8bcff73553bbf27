/** The solved sheet below the frame, where there always is one; what reads a part of it is drawn anew only when that part changed. */
import { use, useSyncExternalStore } from 'react'
import type { LineUp, Sheet } from '../api'
import type { Store } from './store'
import { WorkspaceContext, type Workspace } from './workspace'

export interface Solved {
  meta: LineUp
  sheet: Sheet
  corner: number
  /** What figures were before the last edit, where it changed them. */
  former: Record<string, number | null>
}

function useSolved(): Store<Workspace> {
  const store = use(WorkspaceContext)
  if (!store?.get().meta || !store.get().sheet) throw new Error('there is no sheet here')
  return store
}

/** A part of what is solved; `select` gives the same object as long as that part is the same. */
export function useSelected<T>(select: (solved: Solved) => T): T {
  const store = useSolved()
  return useSyncExternalStore(store.subscribe, () => select(store.get() as Solved))
}

const ALL = ['meta', 'sheet', 'corner', 'former'] as const

/** All of what is solved: drawn anew at every new sheet. */
export function useSheet(): Solved {
  const store = useSolved()
  return useSyncExternalStore(store.subscribe, () => store.part(ALL)) as Solved
}
