/** The shelf: projects, a new one from a brief, a file, or just one stage. */
import { Button } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { call, type AloneStage, type Design, type ProjectRow } from '../api'
import { Ask } from '../ui/Ask'
import { Logo } from '../ui/Mark'

export function Shelf() {
  const projects = useQuery({ queryKey: ['projects'], queryFn: () => call<ProjectRow[]>('projects') })
  const stages = useQuery({ queryKey: ['stages'], queryFn: () => call<AloneStage[]>('stages'), staleTime: Infinity })
  const [asking, setAsking] = useState(false)
  const [said, setSaid] = useState('')
  const navigate = useNavigate()
  const client = useQueryClient()
  const bring = async (file: File | undefined) => {
    if (!file) return
    try {
      const made = await call<{ id: number }>('import', { text: await file.text() })
      await client.invalidateQueries({ queryKey: ['projects'] })
      void navigate(`/project/${made.id}/stages/transformer`)
    } catch (error) {
      setSaid(
        `${file.name} was refused, nothing was changed: ${error instanceof Error ? error.message : String(error)}`,
      )
    }
  }
  const dark = () => {
    const on = document.documentElement.classList.toggle('dark')
    localStorage.setItem('rhombos-look', on ? 'dark' : 'light')
  }
  return (
    <div className="frame">
      <header className="top">
        <span className="name">
          <Logo />
          Rhombos
        </span>
        <span className="title">from an inverter's brief to a proven box</span>
        <div className="tools" style={{ marginLeft: 'auto' }}>
          <button className="tool" onClick={dark} aria-label="Light or dark">
            ◐
          </button>
        </div>
      </header>
      <main className="page">
        <h1 className="cap">
          Projects
          <span style={{ display: 'flex', gap: 10, letterSpacing: 0, textTransform: 'none' }}>
            <label className="act" style={{ alignSelf: 'center' }}>
              Import a design file
              <input
                type="file"
                accept=".json,application/json"
                className="sr"
                onChange={(e) => void bring(e.target.files?.[0])}
                data-testid="import"
              />
            </label>
            <Button variant={'ink' as never} onClick={() => setAsking(true)}>
              New from a brief
            </Button>
          </span>
        </h1>
        {said && (
          <p className="wrong" role="alert">
            {said}
          </p>
        )}
        {projects.error && (
          <p className="wrong" role="alert">
            {projects.error.message}{' '}
            <button className="act" onClick={() => void projects.refetch()}>
              Try again
            </button>
          </p>
        )}
        <div className="shelf">
          {projects.data?.map((p) => (
            <Link className="tile" key={p.id} to={`/project/${p.id}/stages/transformer`}>
              <Logo />
              <span className="head">{p.title}</span>
              <span className="quiet">
                Revision {p.head} · last touched {p.touched.replace('T', ' ').slice(0, 16)} UTC
              </span>
            </Link>
          ))}
        </div>
        {projects.data?.length === 0 && (
          <p className="quiet">The shelf is empty. Begin with a brief: what shall be fed, and from which battery.</p>
        )}
        <h2 className="cap" style={{ marginTop: 40 }}>
          Just one stage{' '}
          <span className="filter">a bootstrap capacitor, a precharge resistor: its ports become givens</span>
        </h2>
        <div className="shelf">
          {stages.data?.map((s) => (
            <Link className="tile" key={s.name} to={`/alone/${s.name}`}>
              <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
                <path d="M8 1l7 7-7 7-7-7Z" fill="var(--copper)" />
              </svg>
              <span className="head">{s.title}</span>
              <span className="quiet">
                {s.figures
                  .slice(0, 3)
                  .map((f) => f.title.toLowerCase())
                  .join(', ')}{' '}
                …
              </span>
            </Link>
          ))}
        </div>
        <p className="quiet" style={{ marginTop: 36, fontSize: 13.5 }}>
          Results are design aids. Ratings, standards, local regulations and licensed practice prevail; prototypes must
          be verified by measurement.
        </p>
      </main>
      <NewProject open={asking} onClose={() => setAsking(false)} />
    </div>
  )
}

function NewProject({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [title, setTitle] = useState('')
  const [watts, setWatts] = useState('300')
  const [cells, setCells] = useState('8')
  const [type, setType] = useState('heater')
  const [wrong, setWrong] = useState('')
  const navigate = useNavigate()
  const make = async () => {
    try {
      const power = (await call<{ value: number }>('parse', { body: { text: watts, unit: 'W' } })).value
      const count = (await call<{ value: number }>('parse', { body: { text: cells, unit: '' } })).value
      const design: Design = {
        format: 'rhombos-design',
        version: 1,
        title: title.trim(),
        lineup: 'ferrite_push_pull_link_bridge',
        loads: [{ place: 'load_1', title: 'First load' }],
        givens: { 'load_1.rated_power': power, 'battery.cells': count },
        choices: { 'load_1.type': type },
        pins: {},
        parts: {},
      }
      const made = await call<{ id: number }>('projects', { body: { title: title.trim(), design } })
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
            <option value="heater">resistive heater</option>
            <option value="filament_lamp">filament lamp</option>
            <option value="induction_motor">induction motor or compressor</option>
            <option value="universal_motor">universal motor</option>
            <option value="rectifier">electronics with rectifier input</option>
            <option value="active_pfc">electronics with active power-factor input</option>
            <option value="transformer_input">appliance with input transformer</option>
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
