/** A new project: from a brief of one's own (source, output, loads), or from one that is there. */
import { Button } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { call, type Design, type LineUp } from '../../api'
import type { Opening } from '../../api/schema'
import { lineUpFor } from '../../api/lineups'
import { Ask } from '../../ui/Ask'
import type { Reader } from '../../ui/Entry'
import { useLineUps } from '../project/useKeys'
import { AskedFields, counted, eachOf, sumOf } from './AskedFields'
import { loadList } from './loadList'
import { newDesign } from './newDesign'

const LOADS = [{ place: 'load_1', title: 'First load' }]
const TYPE = `${LOADS[0]!.place}.type`

const watts = async (text: string) => (await call<{ value: number }>('parse', { body: { text, unit: 'W' } })).value

/** What a line-up asks at once, and the types of load there are. */
function useAsked(lineup: string | undefined, open: boolean): LineUp | undefined {
  const client = useQueryClient()
  return useQuery({
    queryKey: ['new', lineup],
    queryFn: () => lineUpFor(client, { lineup: lineup!, loads: LOADS }),
    staleTime: Infinity,
    enabled: open && !!lineup,
  }).data?.lineup
}

export function NewProject({ open, onClose }: { open: boolean; onClose: () => void }) {
  const lineups = useLineUps()
  const briefs = useQuery({
    queryKey: ['briefs'],
    queryFn: () => call<Design[]>('briefs'),
    staleTime: Infinity,
    enabled: open,
  })
  const [title, setTitle] = useState('')
  const [from, setFrom] = useState(-1)
  const [lineup, setLineup] = useState('')
  const [part, setPart] = useState('')
  const [givens, setGivens] = useState<Record<string, number>>({})
  const [choices, setChoices] = useState<Record<string, string>>({})
  const [list, setList] = useState('First load, 300 W')
  const [wrong, setWrong] = useState<string[]>([])
  const [busy, setBusy] = useState(false)
  const readers = useRef<Record<string, Reader | null>>({})
  const navigate = useNavigate()
  const whole = lineups.find((l) => l.id === lineup)
  const id = part || lineup || lineups[0]?.id
  const meta = useAsked(id, open)
  const sample = briefs.data?.[from]
  const types = meta?.choices[TYPE]

  const own = async (): Promise<Design | null> => {
    const { rows, wrong } = part
      ? { rows: [], wrong: [] as string[] }
      : loadList(list, types?.options ?? {}, types?.default ?? '')
    const read = await Promise.all(
      rows.map(async (row) => {
        try {
          return { ...row, watts: await watts(row.watts) }
        } catch (error) {
          wrong.push(`line ${row.line}: ${error instanceof Error ? error.message : String(error)}`)
          return { ...row, watts: 0 }
        }
      }),
    )
    setWrong(wrong)
    // What still stands unread in a field is read first; where it cannot be, the field says why.
    const fields = await Promise.all(
      Object.entries(readers.current).map(async ([key, reader]) => [key, reader ? await reader.read() : 0] as const),
    )
    if (wrong.length > 0 || fields.some(([, value]) => value === null)) return null
    return newDesign({ title: title.trim(), lineup: id!, givens: asRead(meta!, new Map(fields)), choices }, read)
  }
  /** The fields as they were read just now: a sum that was typed last counts, where its number was left alone. */
  const asRead = (meta: LineUp, read: Map<string, number | null>): Record<string, number> => {
    const found = { ...givens }
    for (const field of meta.fields) {
      const [value, sum, each] = [read.get(field.key), read.get(sumOf(field.key)), eachOf(meta, field, choices)]
      if (value == null) continue
      const before = givens[field.key] ?? meta.figures[field.key]?.default
      found[field.key] = value === before && sum != null && each && sum !== value * each ? counted(sum, each) : value
    }
    return found
  }
  const make = async () => {
    if (busy || !title.trim()) return
    setBusy(true)
    try {
      const design = sample ? { ...sample, title: title.trim() } : await own()
      if (!design) return setBusy(false)
      // Where nobody chose a line-up the brief does, and the reason stands with the first revision.
      const opening = sample || lineup ? null : await call<Opening>('opening', { body: { design } })
      if (opening) design.lineup = opening.lineup
      const message = opening?.sentence.slice(0, 200)
      const made = await call<{ id: number }>('projects', { body: { title: design.title, design, message } })
      void navigate(`/project/${made.id}/brief`)
    } catch (error) {
      setWrong([error instanceof Error ? error.message : String(error)])
      setBusy(false)
    }
  }
  return (
    <Ask
      open={open}
      onClose={onClose}
      title="New project"
      wide
      actions={
        <Button variant={'ink' as never} disabled={busy || !title.trim() || !meta} onClick={() => void make()}>
          Make it
        </Button>
      }>
      <div className="fields two">
        <label>
          What is it for
          <input
            autoFocus
            value={title}
            onChange={(e) => setTitle(e.target.value)}
            placeholder="Ridge hut lights"
            maxLength={200}
          />
        </label>
        <label>
          Begin from
          <select value={from} onChange={(e) => setFrom(Number(e.target.value))}>
            <option value={-1}>a brief of your own</option>
            {briefs.data?.map((b, k) => (
              <option key={b.title} value={k}>
                {b.title}
              </option>
            ))}
          </select>
        </label>
        {sample ? (
          <Told brief={sample} />
        ) : (
          <>
            <label>
              Line-up to begin with
              <select
                value={lineup}
                onChange={(e) => {
                  setLineup(e.target.value)
                  setPart('')
                }}>
                <option value="">by the brief, computed</option>
                {lineups.map((l) => (
                  <option key={l.id} value={l.id}>
                    {l.title}
                  </option>
                ))}
              </select>
            </label>
            {whole && (
              <label>
                How much of it
                <select value={part} onChange={(e) => setPart(e.target.value)}>
                  <option value="">the whole, to the load</option>
                  {whole.parts.map((p) => (
                    <option key={p.id} value={p.id}>
                      up to {p.title.toLowerCase()}
                    </option>
                  ))}
                </select>
              </label>
            )}
            {meta && (
              <AskedFields
                meta={meta}
                givens={givens}
                choices={choices}
                setGivens={setGivens}
                setChoices={setChoices}
                reader={(key, reader) => (readers.current[key] = reader)}
              />
            )}
            {part && (
              <p className="quiet" style={{ gridColumn: '1 / -1', margin: 0 }}>
                What stands behind it is not there yet: what it would draw is asked in the brief, at the joint.
              </p>
            )}
            {!part && (
              <label style={{ gridColumn: '1 / -1' }}>
                Loads, one a line: name, watts, how many, type; or paste a table
                <textarea rows={4} value={list} onChange={(e) => setList(e.target.value)} spellCheck={false} />
              </label>
            )}
            {!part && types && (
              <p className="quiet small" style={{ gridColumn: '1 / -1', margin: 0 }}>
                Types: {Object.values(types.options).join('; ')}. Without one the name tells it (a compressor, a saw, a
                laptop), else it is {types.options[types.default]}.
              </p>
            )}
          </>
        )}
        {wrong.length > 0 && (
          <p className="wrong" role="alert" style={{ gridColumn: '1 / -1' }}>
            {wrong.map((line) => (
              <span key={line} style={{ display: 'block' }}>
                {line}
              </span>
            ))}
          </p>
        )}
      </div>
    </Ask>
  )
}

/** What a brief that is there says. */
const Told = ({ brief }: { brief: Design }) => (
  <p className="quiet" style={{ gridColumn: '1 / -1' }}>
    {brief.loads
      .map((l) => {
        const [count, power] = [brief.givens[`${l.place}.count`] ?? 1, brief.givens[`${l.place}.rated_power`]]
        return `${l.title}: ${count > 1 ? `${count} × ` : ''}${power} W`
      })
      .join('; ')}
    . Everything else stands at its usual value and can be changed in the brief.
  </p>
)
