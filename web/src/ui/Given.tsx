import { useSheet } from '../state/sheet'
import { useWorkspace } from '../state/workspace'
import { chosen, given } from '../state/moves'
import { Entry } from './Entry'

/** One given of the design, to be typed into. */
export function Given({ figure }: { figure: string }) {
  const { meta, sheet } = useSheet()
  const { design, edit } = useWorkspace()
  const f = meta.figures[figure]!
  return (
    <div className="row2">
      <Entry
        id={figure}
        label={`${f.title}${f.judgement ? ' *' : ''}`}
        note={f.sentence}
        value={design.givens[figure] ?? sheet.figures[figure]?.values[0] ?? null}
        unit={f.unit}
        low={f.low}
        high={f.high}
        whole={f.whole}
        onValue={(v) => edit(f.title, given(figure, v))}
      />
    </div>
  )
}

/** One choice of the design as a list; `label` where no label of its own stands beside it. */
export function ChoiceList({ choice, id, label }: { choice: string; id?: string; label?: string }) {
  const { meta } = useSheet()
  const { design, edit } = useWorkspace()
  const c = meta.choices[choice]!
  return (
    <select
      id={id}
      aria-label={label}
      value={design.choices[choice] ?? c.default}
      onChange={(e) => edit(`${label ?? c.title}: ${c.options[e.target.value]}`, chosen(choice, e.target.value))}>
      {Object.entries(c.options).map(([key, title]) => (
        <option key={key} value={key}>
          {title}
        </option>
      ))}
    </select>
  )
}
