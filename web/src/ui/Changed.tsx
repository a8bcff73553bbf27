import type { LineUp } from '../api'
import type { Change } from '../state/changes'
import { placeTitle, titleOf } from '../state/figures'
import { useSelected } from '../state/sheet'
import { useWorked, useWorkspace } from '../state/workspace'

/** What this edit changed: parts, whole numbers and verdicts that moved. */
export function Changed() {
  const meta = useSelected((s) => s.meta)
  const { changed, dismiss } = useWorkspace('changed', 'dismiss')
  if (changed.length === 0) return null
  return <Told meta={meta} changed={changed} dismiss={dismiss} />
}

function Told({ meta, changed, dismiss }: { meta: LineUp; changed: Change[]; dismiss: () => void }) {
  const { lastEdit, undo, canUndo } = useWorkspace('lastEdit', 'undo', 'canUndo')
  const loads = useWorked((w) => w.design.loads)
  if (!lastEdit) return null
  // A check may be called by the key of the figure that it judges.
  const name = (c: Change) => (c.kind === 'verdict' && meta.checks[c.key]?.title) || titleOf(meta, c.key)
  return (
    <div className="strip" role="status" data-testid="changed">
      <b>{lastEdit}</b>
      {changed.slice(0, 7).map((c) => (
        <span key={c.key}>
          {placeTitle(meta, loads, c.key.split('.')[0]!)}, {name(c).toLowerCase()}: {c.from} → <b>{c.to}</b>
        </span>
      ))}
      {changed.length > 7 && <span>and {changed.length - 7} more</span>}
      <button className="act" onClick={dismiss}>
        Dismiss
      </button>
      {canUndo && (
        <button className="act" onClick={undo}>
          Undo
        </button>
      )}
    </div>
  )
}
