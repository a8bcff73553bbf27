/** A new project from the least that a brief must say; all else begins at its usual value. */
import { Button } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { call, type Design, type LineUp } from '../../api'
import { lineUpFor } from '../../api/lineups'
import { useLineUps } from '../project/useKeys'
import { Ask } from '../../ui/Ask'

const LOAD = 'load_1'
const WATTS = `${LOAD}.rated_power`

const parsed = async (text: string, unit: string) =>
  (await call<{ value: number }>('parse', { body: { text, unit } })).value

/** A design with the least that a brief must say; `asked` are the givens that were typed, by their key. */
export function newDesign(title: string, lineup: string, type: string, asked: Record<string, number>): Design {
  return {
    format: 'rhombos-design',
    version: 1,
    title,
    lineup,
    loads: [{ place: LOAD, title: 'First load' }],
    givens: asked,
    choices: { [`${LOAD}.type`]: type },
    pins: {},
    parts: {},
  }
}

/** The first number that the line-up asks of its source, and the watts of the first load: with them a sheet can be solved. */
export function NewProject({ open, onClose }: { open: boolean; onClose: () => void }) {
  const client = useQueryClient()
  const lineups = useLineUps()
  const [title, setTitle] = useState('')
  const [lineup, setLineup] = useState('')
  const [typed, setTyped] = useState<Record<string, string>>({ [WATTS]: '300' })
  const [type, setType] = useState('heater')
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const navigate = useNavigate()
  const id = lineup || lineups[0]?.id
  const loads = [{ place: LOAD, title: 'First load' }]
  const meta = useQuery({
    queryKey: ['new', id],
    queryFn: () => lineUpFor(client, { lineup: id!, loads }),
    staleTime: Infinity,
    enabled: open && !!id,
  }).data?.lineup
  const source = meta?.fields.find((f) => f.group === 'source' && meta.figures[f.key]?.whole)?.key
  const field = (key: string) => typed[key] ?? String(meta?.figures[key]?.default ?? '')
  const make = async () => {
    setBusy(true)
    try {
      const keys = [WATTS, ...(source ? [source] : [])]
      const read = keys.map(async (key) => [key, await parsed(field(key), meta?.figures[key]?.unit ?? '')] as const)
      const design = newDesign(title.trim(), id!, type, Object.fromEntries(await Promise.all(read)))
      const made = await call<{ id: number }>('projects', { body: { title: design.title, design } })
      void navigate(`/project/${made.id}/brief`)
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error))
      setBusy(false)
    }
  }
  const type_ = (key: string) => (e: { target: { value: string } }) =>
    setTyped((t) => ({ ...t, [key]: e.target.value }))
  return (
    <Ask
      open={open}
      onClose={onClose}
      title="New project from a brief"
      actions={
        <Button variant={'ink' as never} disabled={busy || !title.trim() || !meta} onClick={() => void make()}>
          Make it
        </Button>
      }>
      <div className="fields">
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
          Line-up to begin with
          <select value={id ?? ''} onChange={(e) => setLineup(e.target.value)}>
            {lineups.map((l) => (
              <option key={l.id} value={l.id}>
                {l.title}
              </option>
            ))}
          </select>
        </label>
        {source && (
          <label>
            {meta!.figures[source]!.title}
            {firstChoice(meta!, source)}
            <input className="num" value={field(source)} onChange={type_(source)} />
          </label>
        )}
        <label>
          First load, watts
          <input className="num" value={field(WATTS)} onChange={type_(WATTS)} />
        </label>
        <label>
          which is a
          <select value={type} onChange={(e) => setType(e.target.value)}>
            {Object.entries(meta?.choices[`${LOAD}.type`]?.options ?? { heater: '…' }).map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <p className="quiet">Everything else begins at its usual value and can be changed in the brief.</p>
        {wrong && (
          <p className="wrong" role="alert">
            {wrong}
          </p>
        )}
      </div>
    </Ask>
  )
}

/** What the source is made of unless it is changed: the choice that stands first in its part of the brief. */
function firstChoice(meta: LineUp, near: string): string {
  const place = near.split('.')[0]!
  const key = meta.fields.find((f) => f.key.startsWith(`${place}.`) && meta.choices[f.key])?.key
  const choice = key ? meta.choices[key] : undefined
  return choice ? `, ${choice.options[choice.default]}` : ''
}
