/** Why a part was picked: what binds, and the runners-up with what each would cost or lack. */
import { useQuery } from '@tanstack/react-query'
import { call, type PickTold } from '../../api'
import { text } from '../../number'
import { counted } from '../../state/figures'
import { pinnedPart } from '../../state/moves'
import { standing } from '../../state/standing'
import { useSheet } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Unpin } from '../../ui/Unpin'

/** What a part must reach: the demand, and how many times it where a margin is asked for. */
function needed(r: PickTold['tightest']): string {
  const times = r.level !== null && Math.abs(r.level - 1) > 1e-9 ? `${Number(r.level.toPrecision(3))} × ` : ''
  return times + text(r.demand, r.unit)
}

/** What one that fits costs, beside the one picked: a pinned part need not be the cheapest. */
function wouldDo(r: PickTold['tightest'], picked: PickTold['tightest']): string {
  const price = text(r.price, 'credit')
  return r.price !== null && picked.price !== null && r.price > picked.price
    ? `dearer: ${price}`
    : `would do for ${price}`
}

export function PickPanel({ pickKey, onClose }: { pickKey: string; onClose: () => void }) {
  const { meta, sheet, corner } = useSheet()
  const { design, edit } = useWorkspace('design', 'edit')
  const picked = sheet.picks[pickKey]!
  const info = meta.picks[pickKey]!
  const id = sheet.corners[corner]!.id
  const told = useQuery({
    queryKey: ['pick', pickKey, JSON.stringify(design)],
    queryFn: () => call<PickTold>('pick', { body: { design, key: pickKey, corner: id } }),
    placeholderData: standing<PickTold>(pickKey),
  })
  const pick = told.data
  const pin = (part: string, quantity: number) =>
    edit(
      `Pinned ${info.title.toLowerCase()} to ${counted({ part, quantity })}`,
      pinnedPart(pickKey, part, quantity, 'chosen by hand'),
    )
  return (
    <section aria-label={`Why ${info.title}`} data-testid="why">
      <h2 className="cap">
        <span>
          {info.title}: <span className="num">{counted(picked)}</span>
        </span>
        <button className="act" onClick={onClose}>
          close
        </button>
      </h2>
      {told.error && <p className="wrong">{told.error.message}</p>}
      {pick && (
        <p>
          {info.sentence} {String(pick.record.description)}. {pick.fits ? 'Tightest' : 'It does not fit'}:{' '}
          {pick.tightest.need}
          {pick.tightest.margin !== null && `, ${pick.tightest.margin.toPrecision(3)} × what is needed`}.
        </p>
      )}
      {picked.pinned && (
        <p className="pinned">
          Pinned. <Unpin of={pickKey} />
        </p>
      )}
      <h3 style={{ fontSize: 14, margin: '8px 0 2px' }}>Runners-up</h3>
      <table className="table">
        <tbody>
          {pick?.runners_up.map((r) => (
            <tr key={`${r.part}${r.quantity}`}>
              <td className="num">{counted(r)}</td>
              <td className="quiet">
                {r.fits ? wouldDo(r, pick.tightest) : `${r.need}: ${text(r.capability, r.unit)} of ${needed(r)}`}
              </td>
              <td>
                <button className="act" onClick={() => pin(r.part, r.quantity)}>
                  Pin
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
