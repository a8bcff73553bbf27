/** Every part to order, with its rating and price. */
import { Button } from '@chakra-ui/react'
import type { BuildPack } from '../../api'
import { useSelected } from '../../state/sheet'
import { useProject, useWorkspace } from '../../state/workspace'
import { saveText } from '../../ui/save'
import { Scroll } from '../../ui/Scroll'

const credits = (v: number | null) => (v === null ? '' : v.toFixed(2))

/** A price of one, finer where hundredths would not add up to the total. */
export const each = (v: number | null) =>
  v === null || Math.abs(v - Number(v.toFixed(2))) < 5e-4 ? credits(v) : v.toFixed(3)

export function PartsList({ pack }: { pack: BuildPack }) {
  const meta = useSelected((s) => s.meta)
  const { project } = useProject('project')
  const { design } = useWorkspace('design')
  const { parts, csv } = pack
  const total = parts.reduce((sum, r) => sum + (r.total ?? 0), 0)
  const place = (name: string) => meta.places.find((p) => p.name === name)?.title ?? name
  const saves: [string, () => void][] = [
    ['Print', () => window.print()],
    ['CSV', () => saveText(csv, `${design.title} parts.csv`, 'text/csv')],
    ['JSON', () => saveText(JSON.stringify(pack, null, 2), `${design.title} build.json`, 'application/json')],
  ]
  return (
    <section className="card">
      <h2 className="cap">
        Parts to order, {design.title}{' '}
        <span className="noprint" style={{ display: 'flex', gap: 8 }}>
          {saves.map(([name, save]) => (
            <Button key={name} variant={'plain' as never} onClick={save}>
              {name}
            </Button>
          ))}
        </span>
      </h2>
      <Scroll of="Parts to order">
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
                <td className="r num">{each(r.price)}</td>
                <td className="r num">{credits(r.total)}</td>
              </tr>
            ))}
            <tr>
              <td colSpan={6} className="r">
                <b>Priced parts, credits</b>
              </td>
              <td className="r num">
                <b>{credits(total)}</b>
              </td>
            </tr>
          </tbody>
        </table>
      </Scroll>
      <p className="quiet">
        Prices in neutral credits. Semiconductor fuses, connectors, board and enclosure are not in this list. Revision{' '}
        {project.head}.
      </p>
    </section>
  )
}
