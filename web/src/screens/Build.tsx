/** What to order and what to wind: parts list with prices, winding card; as page, print, CSV and JSON. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { call, type BuildPack } from '../api'
import { text } from '../number'
import { useWorkspace } from '../state/workspace'
import { saveText } from '../ui/save'
import { Winding } from '../pictures/WindingWindow'

export default function Build() {
  const { design, meta, project, sheet } = useWorkspace()
  const pack = useQuery({
    queryKey: ['build', JSON.stringify(design)],
    queryFn: () => call<BuildPack>('build', { body: { design } }),
    placeholderData: (old) => old,
  })
  if (pack.error) return <p className="wait">{pack.error.message}</p>
  if (!pack.data) return <p className="wait">Gathering the parts …</p>
  const { parts, csv, winding } = pack.data
  const total = parts.reduce((sum, r) => sum + (r.total ?? 0), 0)
  const place = (name: string) => meta!.places.find((p) => p.name === name)?.title ?? name
  const e = winding.expected
  const fails = Object.values(sheet!.checks).filter((c) => c.verdict === 'fails').length
  return (
    <main className="page cards">
      {fails > 0 && (
        <p className="caution">
          <b>
            {fails} {fails === 1 ? 'check fails' : 'checks fail'}.
          </b>{' '}
          Do not order before they are settled: see the hollow rhombi on the line.
        </p>
      )}
      <section className="card">
        <h2 className="cap">
          Parts to order, {design.title}{' '}
          <span className="noprint" style={{ display: 'flex', gap: 8 }}>
            <Button variant={'plain' as never} onClick={() => window.print()}>
              Print
            </Button>{' '}
            <Button variant={'plain' as never} onClick={() => saveText(csv, `${design.title} parts.csv`, 'text/csv')}>
              CSV
            </Button>{' '}
            <Button
              variant={'plain' as never}
              onClick={() =>
                saveText(JSON.stringify(pack.data, null, 2), `${design.title} build.json`, 'application/json')
              }>
              JSON
            </Button>
          </span>
        </h2>
        <div className="scroll">
          <table className="table" data-testid="parts">
            <thead>
              <tr>
                <th>Stage</th>
                <th>What</th>
                <th>Part or value</th>
                <th>Description, rating</th>
                <th className="r">Pieces</th>
                <th className="r">Each</th>
                <th className="r">Total</th>
              </tr>
            </thead>
            <tbody>
              {parts.map((r, i) => (
                <tr key={i}>
                  <td className="quiet">{place(r.place)}</td>
                  <td>{r.what}</td>
                  <td className="num">{r.part}</td>
                  <td className="quiet">{r.description}</td>
                  <td className="r num">{r.quantity}</td>
                  <td className="r num">{r.price === null ? '' : r.price.toFixed(2)}</td>
                  <td className="r num">{r.total === null ? '' : r.total.toFixed(2)}</td>
                </tr>
              ))}
              <tr>
                <td colSpan={6} className="r">
                  <b>Priced parts, credits</b>
                </td>
                <td className="r num">
                  <b>{total.toFixed(2)}</b>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p className="quiet">
          Prices in neutral credits. Semiconductor fuses, connectors, board and enclosure are not in this list. Revision{' '}
          {project.head}.
        </p>
      </section>
      <section className="card">
        <h2 className="cap">Winding card, transformer</h2>
        <div className="split">
          <div>
            <table className="table" data-testid="winding">
              <thead>
                <tr>
                  <th>Order</th>
                  <th className="r">Turns</th>
                  <th>Wire</th>
                  <th className="r">Length</th>
                  <th>Start</th>
                  <th>Finish</th>
                </tr>
              </thead>
              <tbody>
                {winding.order.map((w, i) => (
                  <tr key={i}>
                    <td>
                      {i + 1}. {w.name}
                      <div className="quiet" style={{ fontSize: 13 }}>
                        {w.note}
                      </div>
                    </td>
                    <td className="r num">{w.turns}</td>
                    <td className="num">
                      {i === 1 ? w.strands : Math.ceil(w.strands / 2)} × {text(w.diameter, 'm')}
                    </td>
                    <td className="r num">{text(w.length, 'm')}</td>
                    <td className="num">{w.start}</td>
                    <td className="num">{w.finish}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <h3 style={{ margin: '14px 0 4px' }}>Readings to expect</h3>
            <table className="table">
              <thead>
                <tr>
                  <th>Reading</th>
                  <th className="r">Expected</th>
                  <th className="r">Yours</th>
                </tr>
              </thead>
              <tbody>
                {(
                  [
                    ['Magnetising inductance of one primary', e.magnetising_inductance, 'H'],
                    ['Leakage, secondary shorted, with the loop (estimate)', e.leakage, 'H'],
                    ['Ratio, secondary over one primary', e.ratio, ''],
                    ['Primary resistance, 20 °C', e.primary_resistance_cold, 'Ω'],
                    ['Secondary resistance, 20 °C', e.secondary_resistance_cold, 'Ω'],
                  ] as [string, number, string][]
                ).map(([name, v, unit]) => (
                  <tr key={name}>
                    <td>{name}</td>
                    <td className="r num">{text(v, unit)}</td>
                    <td className="r">▢ ________</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p>{winding.test}</p>
            <p className="caution">
              Insulation between primary and secondary carries the link's safety: creepage, clearance and withstand test
              by the standard that you work to, proved by a competent person.
            </p>
          </div>
          <div>
            <Winding card={winding} />
          </div>
        </div>
      </section>
    </main>
  )
}
