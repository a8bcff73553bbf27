/** What a line-up asks at once of its source and its output: choices, values, and a count that may be told by the sum it makes. */
import type { LineUp } from '../../api'
import { Entry, type Reader } from '../../ui/Entry'

/** So many that the sum is reached; a thousandth of one more is none. */
export const counted = (sum: number, each: number): number => Math.max(1, Math.ceil(sum / each - 1e-3))

/** What each adds to the sum of a count, for the choice that is made. */
export const eachOf = (meta: LineUp, field: LineUp['fields'][number], choices: Record<string, string>): number | null =>
  field.counted?.each[choices[field.counted.by] ?? meta.choices[field.counted.by]!.default] ?? null

/** The name under which the sum of a count is read. */
export const sumOf = (key: string): string => `${key} by its sum`

interface Props {
  meta: LineUp
  givens: Record<string, number>
  choices: Record<string, string>
  setGivens: (next: Record<string, number>) => void
  setChoices: (next: Record<string, string>) => void
  /** The readers of the fields, by key, for the form to wait for. */
  reader: (key: string, reader: Reader | null) => void
}

export function AskedFields({ meta, givens, choices, setGivens, setChoices, reader }: Props) {
  const give = (key: string, value: number) => setGivens({ ...givens, [key]: value })
  return meta.fields
    .filter((f) => f.at_once)
    .map((field) => {
      const { key, counted: by } = field
      const choice = meta.choices[key]
      if (choice)
        return (
          <label key={key}>
            {choice.title}
            <select
              value={choices[key] ?? choice.default}
              onChange={(e) => setChoices({ ...choices, [key]: e.target.value })}>
              {Object.entries(choice.options).map(([option, name]) => (
                <option key={option} value={option}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        )
      const figure = meta.figures[key]!
      const value = givens[key] ?? figure.default ?? null
      const each = eachOf(meta, field, choices)
      return (
        <div key={key} className="asked">
          <div>
            <Entry
              label={figure.title}
              value={value}
              unit={figure.unit}
              low={figure.low}
              high={figure.high}
              whole={figure.whole}
              onValue={(v) => give(key, v)}
              reader={(r) => reader(key, r)}
            />
          </div>
          {by && each && value !== null && (
            <div>
              <Entry
                label={`or ${by.title.toLowerCase()}`}
                value={value * each}
                unit={by.unit}
                low={each / 2}
                high={(figure.high ?? Infinity) * each}
                onValue={(sum) => give(key, counted(sum, each))}
                reader={(r) => reader(sumOf(key), r)}
              />
            </div>
          )}
        </div>
      )
    })
}
