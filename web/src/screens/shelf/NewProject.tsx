/** A new project from the least that a brief must say; all else begins at its usual value. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { call, type Design, type LineUpMeta } from '../../api'
import { Ask } from '../../ui/Ask'

const LINE_UP = 'ferrite_push_pull_link_bridge'
const LOAD = 'load_1'

const read = async (text: string, unit: string) =>
  (await call<{ value: number }>('parse', { body: { text, unit } })).value

export function newDesign(title: string, watts: number, cells: number, type: string): Design {
  return {
    format: 'rhombos-design',
    version: 1,
    title,
    lineup: LINE_UP,
    loads: [{ place: LOAD, title: 'First load' }],
    givens: { [`${LOAD}.rated_power`]: watts, 'battery.cells': cells },
    choices: { [`${LOAD}.type`]: type },
    pins: {},
    parts: {},
  }
}

export function NewProject({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [title, setTitle] = useState('')
  const [watts, setWatts] = useState('300')
  const [cells, setCells] = useState('8')
  const [type, setType] = useState('heater')
  const [wrong, setWrong] = useState('')
  const navigate = useNavigate()
  const types = useQuery({
    queryKey: ['lineup', LINE_UP, LOAD],
    queryFn: () => call<LineUpMeta>(`lineups/${LINE_UP}?loads=${LOAD}`),
    staleTime: Infinity,
    enabled: open,
  }).data?.choices[`${LOAD}.type`]?.options
  const make = async () => {
    try {
      const design = newDesign(title.trim(), await read(watts, 'W'), await read(cells, ''), type)
      const made = await call<{ id: number }>('projects', { body: { title: design.title, design } })
      void navigate(`/project/${made.id}/brief`)
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error))
    }
  }
  return (
    <Ask
      open={open}
      onClose={onClose}
      title="New project from a brief"
      actions={
        <Button variant={'ink' as never} disabled={!title.trim()} onClick={() => void make()}>
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
          LiFePO4 cells in series
          <input className="num" value={cells} onChange={(e) => setCells(e.target.value)} />
        </label>
        <label>
          First load, watts
          <input className="num" value={watts} onChange={(e) => setWatts(e.target.value)} />
        </label>
        <label>
          which is a
          <select value={type} onChange={(e) => setType(e.target.value)}>
            {Object.entries(types ?? { heater: '…' }).map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <p className="quiet">
          230 V, 50 Hz sine to begin with; everything else follows and can be changed in the brief.
        </p>
        {wrong && (
          <p className="wrong" role="alert">
            {wrong}
          </p>
        )}
      </div>
    </Ask>
  )
}
