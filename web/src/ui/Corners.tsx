import { cornerVerdict } from '../state/figures'
import { useSheet } from '../state/sheet'
import { useWorkspace } from '../state/workspace'
import { CORNER_KEYS } from './keyTable'
import { Mark } from './Mark'

/** One cell a corner with the worst verdict there; everything on the screen speaks of the chosen one. */
export function Corners() {
  const { sheet, corner } = useSheet()
  const { setCorner } = useWorkspace('setCorner')
  return (
    <section className="corners" aria-label="Operating corner">
      <span className="label">CORNER</span>
      {sheet.corners.map((c, i) => (
        <button key={c.id} aria-pressed={i === corner} onClick={() => setCorner(i)} data-corner={c.id}>
          <i>{CORNER_KEYS[i] ?? ''}</i>
          <Mark verdict={cornerVerdict(sheet, i)} size={14} />
          {c.title}
        </button>
      ))}
    </section>
  )
}
