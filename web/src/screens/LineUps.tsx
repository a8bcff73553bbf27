/** Both front ends solved on the same brief, side by side; the choice is recorded with its reason. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { call, type Comparison } from '../api'
import { text } from '../number'
import { lineUp } from '../state/moves'
import { useWorkspace } from '../state/workspace'
import { Mark } from '../ui/Mark'

export default function LineUps() {
  const { design, edit, project, reload } = useWorkspace()
  const rows = useQuery({
    queryKey: ['compare', JSON.stringify(design)],
    queryFn: () => call<Comparison[]>('compare', { body: { design } }),
    placeholderData: (old) => old,
  })
  const [title, setTitle] = useState('')
  const [reason, setReason] = useState('')
  const [said, setSaid] = useState('')
  if (rows.error) return <p className="wait">{rows.error.message}</p>
  if (!rows.data) return <p className="wait">Solving both line-ups …</p>
  const pct = (v: number | null | undefined) => (v === null || v === undefined ? '–' : `${(v * 100).toFixed(1)} %`)
  const lines: [string, (c: Comparison) => React.ReactNode][] = [
    ['Switch of the front end', (c) => c.switch],
    ['Static switch voltage', (c) => text(c.switch_voltage, 'V')],
    ['Loss at full load', (c) => text(c.loss, 'W')],
    ['Idle drain', (c) => text(c.idle, 'W')],
    ['Efficiency at 10 / 50 / 100 %', (c) => c.efficiency.map(pct).join(' / ')],
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
  const decide = () => {
    const now = rows.data.find((r) => r.id === design.lineup)
    call(`projects/${project.id}/decisions`, {
      body: { title, reason, numbers: { lineup: design.lineup, loss: now?.loss ?? null, cost: now?.cost ?? null } },
    })
      .then(() => {
        setSaid('Recorded in the log.')
        setTitle('')
        setReason('')
        reload()
      })
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  }
  return (
    <main className="page">
      <h2 className="cap">
        Line-ups on this brief, both solved in full <span className="filter">press f to swap</span>
      </h2>
      <div className="scroll">
        <table className="table" data-testid="compare">
          <thead>
            <tr>
              <th />
              {rows.data.map((c) => (
                <th key={c.id}>{c.title}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lines.map(([name, cell]) => (
              <tr key={name}>
                <td className="quiet">{name}</td>
                {rows.data.map((c) => (
                  <td
                    key={c.id}
                    className="num"
                    style={c.id === design.lineup ? { background: 'var(--wash)' } : undefined}>
                    {cell(c)}
                  </td>
                ))}
              </tr>
            ))}
            <tr>
              <td />
              {rows.data.map((c) => (
                <td key={c.id} style={c.id === design.lineup ? { background: 'var(--wash)' } : undefined}>
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
      <div className="split" style={{ marginTop: 28 }}>
        <section>
          <h2 className="cap">Decision</h2>
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
        </section>
        <aside>
          <h2 className="cap">On record</h2>
          {project.decisions.map((d) => (
            <div className="judge" key={d.id}>
              <p>
                <b>{d.title}</b>{' '}
                <span className="quiet">
                  rev {d.revision}, {d.author}
                </span>
              </p>
              <p>{d.reason}</p>
            </div>
          ))}
          {project.decisions.length === 0 && <p className="quiet">Nothing yet. Choose a line-up and write down why.</p>}
        </aside>
      </div>
    </main>
  )
}
