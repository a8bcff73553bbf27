import type { Hazard, PlaceMeta } from '../api'
import { text } from '../number'
import { useSelected } from '../state/sheet'

const WORDS: Record<Hazard['kind'], (value: string) => string> = {
  dc_voltage: (v) => `${v} DC: no AC-rated switch or plug breaks this, and a probe's ground has no business here.`,
  pulsed_voltage: (v) =>
    `${v} in pulses: it shocks and burns like DC, and needs insulation and distances for its peak. A probe's ground has no business here.`,
  ac_voltage: (v) =>
    `${v} AC, floating: a first touch may trip nothing. Earthing, bonding and house wiring are for the local code and a licensed person; never join a live grid.`,
  energy: (v) => `${v} stored.`,
  not_isolated: (v) =>
    `Nothing isolates: the battery's poles are joined to what stands at ${v}. Battery, cable and case are live with the output; no house wiring, no earthing of a battery pole without a licensed person.`,
  discharge: (v) => `${v} to 60 V after switch-off: measure, do not trust the bleeder.`,
  never_dead: (v) =>
    `${v} stays on the bank with the contactor open: it is never dead. A service disconnect upstream is required; open it before anything is touched.`,
  fault_current: (v) =>
    `A short draws ${v}: fuse at the battery, rings off, insulated tools. No lithium charging below 0 °C.`,
}

/** Cautions where they apply, by the volts, joules and amperes of the place in this very design. */
export function Caution({ place }: { place: PlaceMeta }) {
  const told = useSelected(({ sheet, meta }) =>
    place.hazards
      .flatMap((h) => {
        const numbers = (sheet.figures[h.figure]?.values ?? []).filter((v): v is number => v !== null)
        const most = Math.max(...numbers)
        return most > h.above ? [WORDS[h.kind](text(most, meta.figures[h.figure]?.unit ?? ''))] : []
      })
      .join(' '),
  )
  if (!told) return null
  return (
    <p className="caution" role="note">
      <b>Caution.</b> {told}
    </p>
  )
}
