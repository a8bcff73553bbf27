/** The load list: what each appliance takes, how it starts, and whether a sine of this inverter suits it. */
import { memo, useCallback } from 'react'
import type { Suits } from '../../api'
import { at } from '../../state/figures'
import { given, pinned, removedLoad, renamedLoad } from '../../state/moves'
import { useSelected } from '../../state/sheet'
import { useWorked, useWorkspace } from '../../state/workspace'
import { Entry } from '../../ui/Entry'
import { ChoiceList } from '../../ui/Given'
import { Mark } from '../../ui/Mark'
import { Scroll } from '../../ui/Scroll'

/** For every type of load, what each waveform is to it. */
export type Suitability = Record<string, Record<string, Suits>>
interface Load {
  place: string
  title: string
}

export function LoadTable({ fit }: { fit: Suitability | undefined }) {
  const meta = useSelected((s) => s.meta)
  const loads = useWorked((w) => w.design.loads)
  return (
    <Scroll of="The load list">
      <table className="table loads">
        <thead>
          <tr>
            <th>Load</th>
            <th>Type</th>
            <th className="r">Each</th>
            <th className="r">Count</th>
            <th className="r">PF</th>
            <th className="r">Start ×</th>
            <th className="line1">On a sine</th>
            <th>
              <span className="sr">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {loads
            .filter((load) => meta.choices[`${load.place}.type`])
            .map((load) => (
              <Row key={load.place} load={load} fit={fit} />
            ))}
        </tbody>
      </table>
    </Scroll>
  )
}

const Row = memo(function Row({ load, fit }: { load: Load; fit: Suitability | undefined }) {
  const meta = useSelected((s) => s.meta)
  const { edit } = useWorkspace('edit')
  const { place, title } = load
  const key = `${place}.type`
  const type = useWorked((w) => w.design.choices[key]) ?? meta.choices[key]!.default
  const only = useWorked((w) => w.design.loads.length === 1)
  const suits = fit?.[type]?.sine
  return (
    <tr data-load={place}>
      <td className="name">
        {/* Grows with a long name; a name has one line. */}
        <textarea
          aria-label="Name of the load"
          rows={1}
          value={title}
          onKeyDown={(e) => e.key === 'Enter' && (e.preventDefault(), e.currentTarget.blur())}
          onChange={(e) => edit(`Renamed ${place}`, renamedLoad(place, e.target.value.replace(/\s*\n\s*/g, ' ')))}
        />
      </td>
      <td className="type">
        <ChoiceList choice={key} label={`Type of ${title}`} />
      </td>
      <td className="r" data-label="each" style={{ width: 84 }}>
        <Stated load={load} name="rated_power" label="Watts" unit="W" />
      </td>
      <td className="r" data-label="count" style={{ width: 52 }}>
        <Stated load={load} name="count" label="Count" unit="" />
      </td>
      <td className="r" data-label="power factor" style={{ width: 66 }}>
        <Assumed load={load} name="power_factor" label="Power factor" />
      </td>
      <td className="r" data-label="start ×" style={{ width: 50 }}>
        <Assumed load={load} name="start_factor" label="Start factor" />
      </td>
      <td className="line1" data-label="on a sine">
        <Mark verdict={suits?.verdict ?? 'unknown'} /> {suits?.words}
        {type === 'rectifier' ? ', crest not drawn' : ''}
      </td>
      <td>
        {!only && (
          <button
            className="act"
            onClick={() => edit(`Removed ${title}`, removedLoad(place))}
            aria-label={`Remove ${title}`}>
            remove
          </button>
        )}
      </td>
    </tr>
  )
})

interface Field {
  load: Load
  name: string
  label: string
}

/** What the brief states of a load: a given. */
const Stated = memo(function Stated({ load, name, label, unit }: Field & { unit: string }) {
  const { edit } = useWorkspace('edit')
  const key = `${load.place}.${name}`
  const { low, high, whole } = useSelected((s) => s.meta.figures[key])!
  const worked = useSelected((s) => at(s.sheet.figures[key], 0))
  const typed = useWorked((w) => w.design.givens[key])
  const { title } = load
  const onValue = useCallback(
    (v: number) => edit(`${title}: ${label.toLowerCase()}`, given(key, v)),
    [edit, title, label, key],
  )
  return (
    <span style={{ display: 'block' }}>
      <Entry
        hideLabel
        id={key}
        label={`${label} of ${title}`}
        value={typed ?? worked}
        unit={unit}
        low={low}
        high={high}
        whole={whole}
        onValue={onValue}
      />
    </span>
  )
})

/** What follows from a load's type unless its maker states it: a figure that may be pinned. */
const Assumed = memo(function Assumed({ load, name, label }: Field) {
  const { edit } = useWorkspace('edit')
  const key = `${load.place}.${name}`
  const value = useSelected((s) => at(s.sheet.figures[key], 0))
  const pin = useWorked((w) => w.design.pins[key])
  const { title } = load
  const reason = pin?.reason ?? 'stated by the maker'
  const onValue = useCallback(
    (v: number) => edit(`${title}: ${label.toLowerCase()}`, pinned(key, v, reason)),
    [edit, title, label, key, reason],
  )
  return (
    <Entry
      hideLabel
      label={`${label} of ${title}`}
      className={pin ? 'num pinned' : 'num'}
      value={value}
      unit=""
      onValue={onValue}
    />
  )
})
