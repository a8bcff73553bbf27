/** The winding card of the transformer: what is wound in which order, and the readings that prove it. */
import type { WindingCard } from '../../api'
import { text } from '../../number'
import { Winding } from '../../pictures/Winding'
import { Scroll } from '../../ui/Scroll'

const READINGS: [string, string, string][] = [
  ['Magnetising inductance of one primary', 'magnetising_inductance', 'H'],
  ['Leakage, secondary shorted, with the loop (estimate)', 'leakage', 'H'],
  ['Ratio, secondary over one primary', 'ratio', ''],
  ['Primary resistance, 20 °C', 'primary_resistance_cold', 'Ω'],
  ['Secondary resistance, 20 °C', 'secondary_resistance_cold', 'Ω'],
]

export function WindingSheet({ card }: { card: WindingCard }) {
  return (
    <section className="card">
      <h2 className="cap">Winding card, {card.title.toLowerCase()}</h2>
      {card.unknown.length > 0 && (
        <p className="wrong" role="alert">
          It cannot be wound from this card: {card.unknown.slice(0, 4).join(', ').toLowerCase()}{' '}
          {card.unknown.length > 4 && `and ${card.unknown.length - 4} more `}
          {card.unknown.length === 1 ? 'is' : 'are'} not known. The stage says why.
        </p>
      )}
      <div className="split">
        <div>
          <Scroll of="Winding order">
            <Order card={card} />
          </Scroll>
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
              {READINGS.map(([name, key, unit]) => (
                <tr key={key}>
                  <td>{name}</td>
                  <td className="r num">{text(card.expected[key], unit)}</td>
                  <td className="r">▢ ________</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p>{card.test}</p>
          <p className="caution">
            Insulation between primary and secondary carries the link's safety: creepage, clearance and withstand test
            by the standard that you work to, proved by a competent person.
          </p>
        </div>
        <div>{card.order.length > 0 && <Winding card={card} />}</div>
      </div>
    </section>
  )
}

function Order({ card }: { card: WindingCard }) {
  return (
    <table className="table airy" data-testid="winding">
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
        {card.order.map((w, i) => (
          <tr key={i}>
            <td>
              {i + 1}. {w.name}
              <div className="quiet small">{w.note}</div>
            </td>
            <td className="r num">{w.turns}</td>
            <td className="num line1">
              {w.strands} × {text(w.diameter, 'm')}
              {card.halves === 2 && w.name.startsWith('Primary') && ' each'}
            </td>
            <td className="r num line1">{text(w.length, 'm')}</td>
            <td className="num line1">{w.start}</td>
            <td className="num line1">{w.finish}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
