/** The shelf: projects, a new one from a brief, a file, or just one stage. */
import { Button } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { call, type StageRow } from '../../api'
import { LookButton } from '../../ui/LookButton'
import { Logo } from '../../ui/Mark'
import { NewProject } from './NewProject'
import { Projects } from './Projects'

export function Shelf() {
  const [asking, setAsking] = useState(false)
  const [refused, setRefused] = useState('')
  return (
    <div className="frame">
      <title>The shelf · Rhombos</title>
      <header className="top">
        <span className="name">
          <Logo />
          Rhombos
        </span>
        <span className="title">from an inverter's brief to a proven box</span>
        <div className="tools" style={{ marginLeft: 'auto' }}>
          <LookButton />
        </div>
      </header>
      <main className="page">
        <h1 className="cap">
          Projects
          <span style={{ display: 'flex', gap: 10, letterSpacing: 0, textTransform: 'none' }}>
            <Import onRefused={setRefused} />
            <Button variant={'ink' as never} onClick={() => setAsking(true)}>
              New from a brief
            </Button>
          </span>
        </h1>
        {refused && (
          <p className="wrong" role="alert">
            {refused}
          </p>
        )}
        <Projects />
        <h2 className="cap" style={{ marginTop: 40 }}>
          Just one stage{' '}
          <span className="filter">a bootstrap capacitor, a precharge resistor: its ports become givens</span>
        </h2>
        <Stages />
        <p className="quiet small" style={{ marginTop: 36 }}>
          Results are design aids. Ratings, standards, local regulations and licensed practice prevail; prototypes must
          be verified by measurement.
        </p>
      </main>
      <NewProject open={asking} onClose={() => setAsking(false)} />
    </div>
  )
}

function Import({ onRefused }: { onRefused: (why: string) => void }) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const bring = async (file: File | undefined) => {
    if (!file) return
    try {
      const made = await call<{ id: number }>('import', { text: await file.text() })
      await client.invalidateQueries({ queryKey: ['projects'] })
      void navigate(`/project/${made.id}/stages`)
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error)
      onRefused(`${file.name} was refused, nothing was changed: ${why}`)
    }
  }
  return (
    <label className="act" style={{ alignSelf: 'center' }}>
      Import a file
      <input
        type="file"
        accept=".json,application/json"
        className="sr"
        onChange={(e) => void bring(e.target.files?.[0])}
        data-testid="import"
      />
    </label>
  )
}

function Stages() {
  const stages = useQuery({ queryKey: ['stages'], queryFn: () => call<StageRow[]>('stages'), staleTime: Infinity })
  const families = [...new Set(stages.data?.map((s) => s.family))]
  return families.map((family) => (
    <section key={family} aria-label={family}>
      <h3 className="family">{family}</h3>
      <div className="shelf">
        {stages.data
          ?.filter((s) => s.family === family)
          .map((s) => (
            <Link className="tile" key={s.name} to={`/alone/${s.name}`}>
              <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
                <path d="M8 1l7 7-7 7-7-7Z" fill="var(--copper)" />
              </svg>
              <span className="head">{s.title}</span>
              <span className="quiet">{s.leads.join(', ').toLowerCase()} …</span>
            </Link>
          ))}
      </div>
    </section>
  ))
}
