import type { ReactNode } from 'react'
import { titleOf } from '../state/figures'
import { unpinned } from '../state/moves'
import { useSelected } from '../state/sheet'
import { useWorkspace } from '../state/workspace'

/** Takes the pin out of a figure or a pick. */
export function Unpin({ of, children = 'Unpin' }: { of: string; children?: ReactNode }) {
  const meta = useSelected((s) => s.meta)
  const { edit } = useWorkspace('edit')
  return (
    <button className="act" onClick={() => edit(`Unpinned ${titleOf(meta, of)}`, unpinned(of))}>
      {children}
    </button>
  )
}
