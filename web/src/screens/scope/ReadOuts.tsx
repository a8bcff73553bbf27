/** What the two cursors read, and what meters of three kinds would show. */
import type { ScopeTold } from '../../api'
import { text } from '../../number'
import { valueAt } from './traces'
import type { Cursors } from './Traces'

export function ReadOuts({ p, cursors }: { p: ScopeTold; cursors: Cursors }) {
  const [a, b] = cursors.map((c) => c * p.period) as [number, number]
  const rows = [
    ['Bridge node, V', p.traces.node],
    ['Choke, A', p.traces.choke],
    ['Output, V', p.traces.output],
    ['Load, A', p.traces.load],
    ['Link, V', p.traces.link],
    ['Front end, A', p.traces.front],
  ] as const
  const dt = b - a
  return (
    <>
      <h2 className="cap">
        Read-outs{' '}
        <span className="num" style={{ textTransform: 'none', letterSpacing: 0 }}>
          Δt {text(dt, 's')}
          {dt !== 0 && ` · ${text(1 / Math.abs(dt), 'Hz')}`}
        </span>
      </h2>
      <table className="table" data-testid="readouts">
        <thead>
          <tr>
            <th>
              <span className="sr">Trace</span>
            </th>
            <th className="r">◆ A</th>
            <th className="r">◇ B</th>
            <th className="r">B − A</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, t]) => {
            const [x, y] = [valueAt(t, a), valueAt(t, b)]
            return (
              <tr key={name}>
                <td>{name}</td>
                {[x, y, y - x].map((v, i) => (
                  <td key={i} className="r num">
                    {Math.abs(v) < 20 ? v.toFixed(2) : v.toFixed(1)}
                  </td>
                ))}
              </tr>
            )
          })}
        </tbody>
      </table>
    </>
  )
}

export function Meters({ p }: { p: ScopeTold }) {
  const rows = [
    ['Output, V', p.meters.output],
    ['Bridge node, V', p.meters.node],
  ] as const
  return (
    <table className="table" data-testid="meters">
      <thead>
        <tr>
          <th>
            <span className="sr">Trace</span>
          </th>
          <th className="r">true rms</th>
          <th className="r">average-responding</th>
          <th className="r">peak-responding</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, m]) => (
          <tr key={name}>
            <td>{name}</td>
            {[m.true_rms, m.average, m.peak_scaled].map((v, i) => (
              <td key={i} className="r num">
                {v.toFixed(1)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
