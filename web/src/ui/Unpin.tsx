import type { ReactNode } from 'react'
import { unpinned } from '../state/moves'
import { useWorkspace } from '../state/workspace'

/** Takes the pin out of a figure or a pick. */
export function Unpin({ of, children = 'Unpin' }: { of: string; children?: ReactNode }) {
  const { meta, edit } = useWorkspace()
  const title = meta!.figures[of]?.title ?? meta!.picks[of]?.title ?? of
  return (
    <button className="act" onClick={() => edit(`Unpinned ${title}`, unpinned(of))}>
      {children}
    </button>
  )
}
