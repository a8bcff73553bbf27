import type { PlaceMeta } from '../api'
import { text } from '../number'
import { at } from '../state/figures'
import { useWorkspace } from '../state/workspace'

/** Cautions where they apply, with this design's own numbers. */
export function Caution({ place }: { place: PlaceMeta }) {
  const { sheet, corner } = useWorkspace()
  if (!place.caution || !sheet) return null
  const f = (key: string) => at(sheet.figures[key], corner)
  const words: Record<string, string> = {
    link: `${text(f('link.highest_link'), 'V')} DC, ${text(f('link.stored_energy'), 'J')} stored, ${text(f('link.discharge_time'), 's')} to 60 V after switch-off. Measure; do not trust the bleeder. No AC-rated switch or plug breaks this.`,
    battery: `A short draws ${text(f('battery.fault_current'), 'A')}: fuse at the battery, rings off, insulated tools. No lithium charging below 0 °C.`,
    output: `${text(f('output.rated_output_voltage'), 'V')} AC, floating: a first touch may trip nothing. Earthing, bonding and house wiring are for the local code and a licensed person; never join a live grid.`,
  }
  return (
    <p className="caution" role="note">
      <b>Caution.</b> {words[place.caution]}
    </p>
  )
}
