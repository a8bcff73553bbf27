import { memo, useCallback } from 'react'
import { useSelected } from '../state/sheet'
import { useWorked, useWorkspace } from '../state/workspace'
import { chosen, given } from '../state/moves'
import { Entry } from './Entry'

/** One given of the design, to be typed into. */
export const Given = memo(function Given({ figure }: { figure: string }) {
  const f = useSelected((s) => s.meta.figures[figure])!
  const value = useWorked((w) => w.design.givens[figure] ?? w.sheet?.figures[figure]?.values[0] ?? null)
  const { edit } = useWorkspace('edit')
  const onValue = useCallback((v: number) => edit(f.title, given(figure, v)), [edit, f, figure])
  return (
    <div className="row2">
      <Entry
        id={figure}
        label={`${f.title}${f.judgement ? ' *' : ''}`}
        note={f.sentence}
        value={value}
        unit={f.unit}
        low={f.low}
        high={f.high}
        whole={f.whole}
        onValue={onValue}
      />
    </div>
  )
})

interface ChoiceProps {
  choice: string
  id?: string
  /** Where no label of its own stands beside it. */
  label?: string
}

/** One choice of the design as a list. */
export const ChoiceList = memo(function ChoiceList({ choice, id, label }: ChoiceProps) {
  const c = useSelected((s) => s.meta.choices[choice])!
  const taken = useWorked((w) => w.design.choices[choice]) ?? c.default
  const { edit } = useWorkspace('edit')
  return (
    <select
      id={id}
      aria-label={label}
      value={taken}
      onChange={(e) => edit(`${label ?? c.title}: ${c.options[e.target.value]}`, chosen(choice, e.target.value))}>
      {Object.entries(c.options).map(([key, title]) => (
        <option key={key} value={key}>
          {title}
        </option>
      ))}
    </select>
  )
})
