/** Both front ends solved on the same brief, side by side; the choice is recorded with its reason. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'
import { call, type Comparison } from '../api'
import { text } from '../number'
import { lineUp } from '../state/moves'
import { useWorkspace } from '../state/workspace'
import { Decisions } from '../ui/Decisions'
import { Mark } from '../ui/Mark'

const percent = (v: number | null) => (v === null ? '–' : `${(v * 100).toFixed(1)} %`)

const LINES: [string, (c: Comparison) => ReactNode][] = [
  ['Switch of the front end', (c) => c.switch],
  ['Static switch voltage', (c) => text(c.switch_voltage, 'V')],
  ['Loss at full load', (c) => text(c.loss, 'W')],
  ['Idle drain', (c) => text(c.idle, 'W')],
  ['Efficiency at 10 / 50 / 100 %', (c) => c.efficiency.map(percent).join(' / ')],
  ['Power parts', (c) => c.parts],
  ['Cost of parts', (c) => text(c.cost, 'credit')],
  ['Mass of parts', (c) => text(c.mass, 'kg')],
  [
    'Tightest check',
    (c) => (
      <>
        <Mark verdict={c.tightest.verdict} /> {c.tightest.title}, {c.tightest.margin.toFixed(2)} × hold
      </>
    ),
  ],
  ['Fails, tight', (c) => `${c.fails}, ${c.tight}`],
]

export default function LineUps() {
  const { design } = useWorkspace()
  const rows = useQuery({
    queryKey: ['compare', JSON.stringify(design)],
    queryFn: () => call<Comparison[]>('compare', { body: { design } }),
    placeholderData: (old) => old,
  })
  if (rows.error) return <p className="wait">{rows.error.message}</p>
  if (!rows.data) return <p className="wait">Solving both line-ups …</p>
  return (
    <main className="page">
      <h2 className="cap">
        Line-ups on this brief, both solved in full <span className="filter">press f to swap</span>
      </h2>
      <Table rows={rows.data} />
      <div className="split" style={{ marginTop: 28 }}>
        <section>
          <h2 className="cap">Decision</h2>
          <Decide now={rows.data.find((r) => r.id === design.lineup)} />
        </section>
        <aside>
          <h2 className="cap">On record</h2>
          <Decisions none="Nothing yet. Choose a line-up and write down why." />
        </aside>
      </div>
    </main>
  )
}

function Table({ rows }: { rows: Comparison[] }) {
  const { design, edit } = useWorkspace()
  const chosen = (c: Comparison) => (c.id === design.lineup ? { background: 'var(--wash)' } : undefined)
  return (
    <div className="scroll">
      <table className="table" data-testid="compare">
        <thead>
          <tr>
            <th />
            {rows.map((c) => (
              <th key={c.id}>{c.title}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {LINES.map(([name, cell]) => (
            <tr key={name}>
              <td className="quiet">{name}</td>
              {rows.map((c) => (
                <td key={c.id} className="num" style={chosen(c)}>
                  {cell(c)}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <td />
            {rows.map((c) => (
              <td key={c.id} style={chosen(c)}>
                {c.id === design.lineup ? (
                  <b>In use</b>
                ) : (
                  <button className="act" onClick={() => edit('Swapped the front end', lineUp(c.id))}>
                    Use this line-up
                  </button>
                )}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </div>
  )
}

/** A decision is recorded with the numbers that it rests on. */
function Decide({ now }: { now: Comparison | undefined }) {
  const { project, design, reload } = useWorkspace()
  const [title, setTitle] = useState('')
  const [reason, setReason] = useState('')
  const [said, setSaid] = useState('')
  const decide = () => {
    const numbers = { lineup: design.lineup, loss: now?.loss ?? null, cost: now?.cost ?? null }
    call(`projects/${project.id}/decisions`, { body: { title, reason, numbers } })
      .then(() => {
        setSaid('Recorded in the log.')
        setTitle('')
        setReason('')
        reload()
      })
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  }
  return (
    <div className="fields">
      <label>
        What was decided
        <input
          value={title}
          onChange={(e) => setTitle(e.target.value)}
          placeholder="Push-pull front end"
          maxLength={200}
        />
      </label>
      <label>
        Why
        <textarea
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          placeholder="The numbers that decided, what would reopen it"
        />
      </label>
      <div>
        <Button variant={'ink' as never} disabled={!title.trim() || !reason.trim()} onClick={decide}>
          Record the decision
        </Button>{' '}
        <span className="quiet" role="status">
          {said}
        </span>
      </div>
    </div>
  )
}
