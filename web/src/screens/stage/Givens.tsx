/** What is given at a stage, what is chosen, and what is pinned. */
import { memo } from 'react'
import type { PlaceMeta } from '../../api'
import { text } from '../../number'
import { titleOf } from '../../state/figures'
import { useSelected, useSheet } from '../../state/sheet'
import { useWorked, useWorkspace } from '../../state/workspace'
import { Caution } from '../../ui/Caution'
import { ChoiceList, Given } from '../../ui/Given'
import { Unpin } from '../../ui/Unpin'

interface Props {
  place: PlaceMeta
  select: (key: string) => void
}

export const Givens = memo(function Givens({ place, select }: Props) {
  const meta = useSelected((s) => s.meta)
  const pinned = useWorked((w) => w.design.pins)
  const givens = Object.entries(meta.figures).filter(
    ([, f]) => f.place === place.name && f.kind === 'given' && (f.low === null || f.low !== f.high),
  )
  const choices = Object.entries(meta.choices).filter(
    ([, c]) => c.place === place.name && Object.keys(c.options).length > 1,
  )
  // What a stage that stands alone would read from its neighbours.
  const own = new Set(meta.places.map((p) => p.name))
  const ports = Object.entries(meta.figures).filter(([, f]) => f.kind === 'given' && !own.has(f.place))
  const pins = Object.keys(pinned).filter((key) => key.startsWith(`${place.name}.`))
  return (
    <>
      <Caution place={place} />
      <h2 className="cap">Given</h2>
      {choices.map(([key, c]) => (
        <div className="row2 wide" key={key}>
          <label htmlFor={key}>{c.title}</label>
          <ChoiceList id={key} choice={key} />
        </div>
      ))}
      {givens.map(([key]) => (
        <Given key={key} figure={key} />
      ))}
      {givens.length === 0 && choices.length === 0 && (
        <p className="quiet">Nothing is given here: all follows from other stages.</p>
      )}
      {givens.some(([, f]) => f.judgement) && <p className="quiet small">* a value of experience: put your own.</p>}
      {ports.length > 0 && (
        <h2 className="cap" style={{ marginTop: 20 }}>
          From its neighbours
        </h2>
      )}
      {ports.map(([key]) => (
        <Given key={key} figure={key} />
      ))}
      {pins.length > 0 && (
        <h2 className="cap" style={{ marginTop: 20 }}>
          Pinned
        </h2>
      )}
      {pins.map((key) => (
        <Pinned key={key} of={key} select={select} />
      ))}
    </>
  )
})

function Pinned({ of, select }: { of: string; select: (key: string) => void }) {
  const { meta, sheet } = useSheet()
  const { design } = useWorkspace('design')
  const pin = design.pins[of]!
  const info = meta.figures[of]
  const computed = sheet.figures[of]?.computed
  return (
    <div style={{ marginBottom: 10 }}>
      <div className="row2">
        <button className="act lab" onClick={() => select(of)}>
          {titleOf(meta, of)}
        </button>
        <span className="pin">{pin.part ? `${pin.quantity}×${pin.part}` : text(pin.value, info?.unit ?? '', 4)}</span>
      </div>
      <div className="pinned small">
        {pin.reason && `“${pin.reason}”`}
        {computed && ` · computed ${text(computed[0], info?.unit ?? '', 4)}`}
      </div>
      <span className="small">
        <Unpin of={of} />
      </span>
    </div>
  )
}
