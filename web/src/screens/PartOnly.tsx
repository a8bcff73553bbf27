/** A part of a line-up, or a stage by itself: there is no load list, what it would feed is given at its joint. */
import { useSelected } from '../state/sheet'
import { Given } from '../ui/Given'
import { Fields } from './brief/Brief'

export default function PartOnly() {
  const meta = useSelected((s) => s.meta)
  const own = new Set(meta.places.map((p) => p.name))
  const ports = Object.entries(meta.figures).filter(([, f]) => f.kind === 'given' && !own.has(f.place))
  const last = meta.places.filter((p) => p.path).at(-1)?.title
  return (
    <main className="page" data-testid="part">
      <div className="split">
        <section>
          <h2 className="cap">Given at its joint</h2>
          <p className="quiet">
            This is a part of a line-up{last && `, up to ${last.toLowerCase()}`}: what stands behind it is not there
            yet, so there is no load list, nothing to compare and no output to look at. What it would draw stands here.
          </p>
          <div style={{ maxWidth: 420 }}>
            {ports.map(([key]) => (
              <Given key={key} figure={key} />
            ))}
          </div>
        </section>
        <aside>
          {(['source', 'output', 'surroundings'] as const).map((group) => (
            <Fields key={group} group={group} />
          ))}
        </aside>
      </div>
    </main>
  )
}
