import { cornerVerdict } from '../state/figures'
import { useWorkspace } from '../state/workspace'
import { Mark } from './Mark'

/** The key of each corner, in order. */
export const KEYS = '1234567890-'

/** One cell a corner with the worst verdict there; everything on the screen speaks of the chosen one. */
export function Corners() {
  const { sheet, corner, setCorner } = useWorkspace()
  return (
    <div className="corners" role="group" aria-label="Operating corner">
      <span className="label">CORNER</span>
      {sheet?.corners.map((c, i) => (
        <button key={c.id} aria-pressed={i === corner} onClick={() => setCorner(i)} data-corner={c.id}>
          <i>{i < KEYS.length ? KEYS[i] : ''}</i>
          <Mark verdict={cornerVerdict(sheet, i)} size={14} />
          {c.title}
        </button>
      ))}
    </div>
  )
}
