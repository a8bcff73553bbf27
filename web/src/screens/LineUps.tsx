/** Every line-up solved on the same brief, side by side; the choice is recorded with its reason. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { call, type Column, type Comparison, type Row, type Verdict } from '../api'
import { text } from '../number'
import { lineUp } from '../state/moves'
import { useProject, useWorkspace } from '../state/workspace'
import { Decisions } from '../ui/Decisions'
import { Mark } from '../ui/Mark'
import { Scroll } from '../ui/Scroll'

const percent = (v: number | null) => (v === null ? '–' : `${(v * 100).toFixed(1)} %`)

/** What a line-up has in a row: its part, its numbers, or nothing of the kind. */
function cell(row: Row, id: string): string {
  const numbers = row.numbers[id]
  if (numbers && row.unit === '' && numbers.length > 1) return numbers.map(percent).join(' / ')
  return row.parts[id] ?? numbers?.map((v) => text(v, row.unit)).join(' / ') ?? 'none'
}

export default function LineUps() {
  const { design } = useWorkspace('design')
  const compared = useQuery({
    queryKey: ['compare', JSON.stringify(design)],
    queryFn: () => call<Comparison>('compare', { body: { design } }),
    placeholderData: (old) => old,
  })
  if (compared.error) return <p className="wait">{compared.error.message}</p>
  if (!compared.data) return <p className="wait">Solving every line-up …</p>
  return (
    <main className="page">
      <h2 className="cap">
        Line-ups on this brief, each solved in full <span className="filter">press f for the next</span>
      </h2>
      <Table {...compared.data} />
      <div className="split" style={{ marginTop: 28 }}>
        <section>
          <h2 className="cap">Decision</h2>
          <Decide {...compared.data} />
        </section>
        <aside>
          <h2 className="cap">On record</h2>
          <Decisions none="Nothing yet. Choose a line-up and write down why." />
        </aside>
      </div>
    </main>
  )
}

function Table({ columns, rows }: Comparison) {
  const { design, edit } = useWorkspace('design', 'edit')
  const chosen = (c: Column) => (c.id === design.lineup ? { background: 'var(--wash)' } : undefined)
  const differs = (row: Row) => new Set(columns.map((c) => cell(row, c.id))).size > 1
  return (
    <Scroll of="Line-ups side by side">
      <table className="table" data-testid="compare">
        <thead>
          <tr>
            <th>
              <span className="quiet">
                {rows.filter(differs).length} of {rows.length} rows differ
              </span>
            </th>
            {columns.map((c) => (
              <th key={c.id}>{c.title}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.title} data-differs={differs(row)}>
              <td className="quiet">{row.title}</td>
              {columns.map((c) => (
                <td key={c.id} className={differs(row) ? 'num' : 'num quiet'} style={chosen(c)}>
                  {cell(row, c.id)}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <td className="quiet">Tightest check</td>
            {columns.map((c) => (
              <td key={c.id} style={chosen(c)}>
                <Mark verdict={c.tightest.verdict as Verdict} /> {c.tightest.title},{' '}
                {c.tightest.margin === null ? 'unknown' : `${c.tightest.margin.toFixed(2)} × hold`}
              </td>
            ))}
          </tr>
          <tr>
            <td className="quiet">Fails, tight</td>
            {columns.map((c) => (
              <td key={c.id} className="num" style={chosen(c)}>
                {c.fails}, {c.tight}
              </td>
            ))}
          </tr>
          <tr>
            <td />
            {columns.map((c) => (
              <td key={c.id} style={chosen(c)}>
                {c.id === design.lineup ? (
                  <b>In use</b>
                ) : (
                  <button className="act" onClick={() => edit(`Swapped to: ${c.title}`, lineUp(c.id))}>
                    Use this line-up
                  </button>
                )}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </Scroll>
  )
}

/** A decision is recorded with the numbers that it rests on: those of the rows that differ. */
function Decide({ rows }: Comparison) {
  const { project, reload } = useProject('project', 'reload')
  const { design } = useWorkspace('design')
  const [title, setTitle] = useState('')
  const [busy, setBusy] = useState(false)
  const [reason, setReason] = useState('')
  const [said, setSaid] = useState('')
  const decide = () => {
    const numbers = {
      lineup: design.lineup,
      ...Object.fromEntries(rows.map((row) => [row.title, cell(row, design.lineup)])),
    }
    setBusy(true)
    call(`projects/${project.id}/decisions`, { body: { title, reason, numbers } })
      .then(() => {
        setSaid('Recorded in the log.')
        setTitle('')
        setReason('')
        reload()
      })
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
      .finally(() => setBusy(false))
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
        <Button variant={'ink' as never} disabled={busy || !title.trim() || !reason.trim()} onClick={decide}>
          Record the decision
        </Button>{' '}
        <span className="quiet" role="status">
          {said}
        </span>
      </div>
    </div>
  )
}
