/** One stage alone: its ports become givens; the figure asked for, and what is still missing. */
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { call, type AloneStage } from '../api'
import { text } from '../number'
import { Logo } from '../ui/Mark'
import { Symbol } from '../ui/Number'

interface Worked {
  unit: string
  text: string
  missing: Record<string, string>
  used: Record<string, string>
}
const FIRST: Record<string, string> = {
  bootstrap: 'bootstrap_capacitor',
  precharge: 'precharge_time',
  clamp: 'clamp_resistor',
  transformer: 'flux_limit',
  dc_link: 'link_ripple',
  battery: 'terminal_voltage',
}

export default function Alone() {
  const { stage = '' } = useParams()
  const stages = useQuery({ queryKey: ['stages'], queryFn: () => call<AloneStage[]>('stages'), staleTime: Infinity })
  const [typed, setTyped] = useState<Record<string, string>>({})
  const [asked, setAsked] = useState<string | null>(null)
  const here = stages.data?.find((s) => s.name === stage)
  const figure = asked ?? FIRST[stage] ?? here?.figures[0]?.name ?? ''
  const work = useQuery({
    queryKey: ['work', stage, figure, typed],
    queryFn: () => call<Worked>('work', { body: { figure: `${stage}.${figure}`, values: typed } }),
    enabled: !!here,
    placeholderData: (old) => old,
    retry: false,
  })
  if (stages.isLoading) return <p className="wait">Opening …</p>
  if (!here)
    return (
      <p className="wait">
        There is no stage “{stage}”.{' '}
        <Link className="act" to="/">
          To the shelf
        </Link>
      </p>
    )
  const info = here.figures.find((f) => f.name === figure)
  const missing = Object.keys(work.data?.missing ?? {})
  const known = new Map(here.inputs.map((i) => [i.name, i]))
  const ports = [
    ...here.inputs.filter((i) => i.kind === 'port'),
    ...missing
      .filter((m) => !known.has(m))
      .map((m) => ({
        name: m,
        kind: 'port',
        title: m.replace(/_/g, ' '),
        unit: (work.data?.missing[m]?.match(/\[(.*)\]$/)?.[1] ?? '').replace(/^1$/, ''),
        symbol: '',
        sentence: work.data?.missing[m] ?? '',
        suggested: null,
      })),
  ]
  const needed = ports.filter((p) => missing.includes(p.name) || typed[p.name] !== undefined)
  const givens = here.inputs.filter((i) => i.kind === 'given')
  const field = (i: (typeof ports)[number]) => (
    <div className="row2" key={i.name}>
      <label htmlFor={i.name} title={i.sentence}>
        {i.title} {i.symbol && <Symbol tex={i.symbol} />}
      </label>
      <input
        id={i.name}
        className="num"
        value={typed[i.name] ?? ''}
        placeholder={i.suggested !== null ? text(i.suggested, i.unit, 4) : i.unit}
        onChange={(e) =>
          setTyped((t) => {
            const next = { ...t, [i.name]: e.target.value }
            if (!e.target.value.trim()) delete next[i.name]
            return next
          })
        }
      />
    </div>
  )
  return (
    <div className="frame">
      <header className="top">
        <Link className="name" to="/">
          <Logo />
          Rhombos
        </Link>
        <span className="title">{here.title}, alone</span>
      </header>
      <main className="page">
        <div className="split">
          <section>
            <h1 className="cap">{here.title}: what shall be worked out</h1>
            <select
              aria-label="Figure"
              value={figure}
              onChange={(e) => setAsked(e.target.value)}
              style={{ fontSize: 17, maxWidth: '100%' }}>
              {here.figures.map((f) => (
                <option key={f.name} value={f.name}>
                  {f.title}
                </option>
              ))}
            </select>
            <p style={{ fontSize: 30, margin: '18px 0' }} data-testid="worked">
              <Symbol tex={info?.symbol ?? ''} />{' '}
              {work.error ? (
                <span className="wrong" style={{ fontSize: 15 }}>
                  {work.error.message}
                </span>
              ) : missing.length ? (
                <span className="quiet" style={{ fontSize: 17 }}>
                  needs {missing.length} more: {missing.map((m) => m.replace(/_/g, ' ')).join(', ')}
                </span>
              ) : (
                <>
                  ={' '}
                  <span className="num" style={{ fontSize: 26 }}>
                    {work.data?.text}
                  </span>
                </>
              )}
            </p>
            <h2 className="cap">What it hangs on</h2>
            <div style={{ maxWidth: 430 }}>{needed.map(field)}</div>
            {needed.length > 0 && (
              <p>
                <button
                  className="act"
                  onClick={() =>
                    setTyped((t) => ({
                      ...t,
                      ...Object.fromEntries(
                        needed
                          .filter((p) => p.suggested !== null && !t[p.name])
                          .map((p) => [p.name, String(p.suggested) + (p.unit === 'K_abs' ? ' K' : '')]),
                      ),
                    }))
                  }>
                  Fill with usual values
                </button>
              </p>
            )}
            <p className="quiet">Type as you would write it: 4k7, 60 nC, 3.3 mH. A comma separates corners.</p>
          </section>
          <aside>
            <h2 className="cap">Given</h2>
            {givens.map(field)}
            {givens.length === 0 && <p className="quiet">This stage has no givens of its own.</p>}
          </aside>
        </div>
      </main>
    </div>
  )
}
