import { useWorkspace } from '../state/workspace'

/** What this edit changed: parts, whole numbers and verdicts that moved. */
export function Changed() {
  const { changed, lastEdit, meta, dismiss, undo, canUndo } = useWorkspace()
  if (changed.length === 0 || !meta || !lastEdit) return null
  const name = (key: string) => meta.checks[key]?.title ?? meta.picks[key]?.title ?? meta.figures[key]?.title ?? key
  const place = (key: string) => meta.places.find((p) => p.name === key.split('.')[0])?.title ?? ''
  return (
    <div className="strip" role="status" data-testid="changed">
      <b>{lastEdit}</b>
      {changed.slice(0, 7).map((c) => (
        <span key={c.key}>
          {place(c.key)}, {name(c.key).toLowerCase()}: {c.from} → <b>{c.to}</b>
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
