/** A picture that means something for the stage, drawn to scale from the sheet's own figures. */
import type { ComponentType } from 'react'
import type { PlaceMeta } from '../api'
import { BatteryWindow } from './BatteryWindow'
import { DutyCurve } from './DutyCurve'
import { LinkWindow } from './LinkWindow'
import { LossBars } from './LossBars'
import { PrechargeCurve } from './PrechargeCurve'
import { WindingWindow } from './WindingWindow'

const PICTURES: Record<string, ComponentType> = {
  battery: BatteryWindow,
  cutoff: BatteryWindow,
  precharge: PrechargeCurve,
  source_input: DutyCurve,
  push_pull: DutyCurve,
  full_bridge: DutyCurve,
  oscillator: DutyCurve,
  rectifier: DutyCurve,
  transformer: WindingWindow,
  dc_link: LinkWindow,
}

export function StagePicture({ place }: { place: PlaceMeta }) {
  const Picture = PICTURES[place.stage] ?? LossBars
  return <Picture />
}
