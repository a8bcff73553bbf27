/** What is set and tried on the bench: every threshold, and the steps with the numbers to expect. */
import type { BuildPack } from '../../api'
import { useSelected } from '../../state/sheet'
import { Scroll } from '../../ui/Scroll'

export function Thresholds({ rows }: { rows: BuildPack['thresholds'] }) {
  const meta = useSelected((s) => s.meta)
  if (rows.length === 0) return null
  return (
    <section className="card">
      <h2 className="cap">What trips, and when</h2>
      <Scroll of="What trips, and when">
        <table className="table" data-testid="thresholds">
          <thead>
            <tr>
              <th>Stage</th>
              <th>What</th>
              <th className="r">Acts at</th>
              <th className="r">From</th>
              <th className="r">To</th>
              <th>After</th>
              <th>Until</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.place + r.what}>
                <td className="quiet">{meta.places.find((p) => p.name === r.place)?.title ?? r.place}</td>
                <td>{r.what}</td>
                <td className="r num">{r.acts}</td>
                <td className="r num">{r.low}</td>
                <td className="r num">{r.high}</td>
                <td className="quiet">{r.after}</td>
                <td className="quiet">{r.resets}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
      <p className="quiet small">From and to: over the tolerances of the parts, every corner of them tried.</p>
    </section>
  )
}

export function Procedures({ told }: { told: BuildPack['procedures'] }) {
  const meta = useSelected((s) => s.meta)
  const title = (name: string) => meta.places.find((p) => p.name === name)?.title ?? name
  const named = (told: string, place: string) => told.toLowerCase().includes(place.toLowerCase())
  return told.map((procedure) => (
    <section className="card" key={procedure.place + procedure.title} data-procedure={procedure.place}>
      <h2 className="cap">
        <span>
          {procedure.title}
          {!named(procedure.title, title(procedure.place)) && <span className="quiet">, {title(procedure.place)}</span>}
        </span>
      </h2>
      <ol className="steps">
        {procedure.steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </ol>
    </section>
  ))
}
