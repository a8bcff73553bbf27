/** One stage alone: its ports become givens; the figure asked for, and what is still missing. */
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { call, type AloneInput, type AloneStage } from '../api'
import { standing } from '../state/standing'
import { LookButton } from '../ui/LookButton'
import { Logo } from '../ui/Mark'
import { Prose, Symbol } from '../ui/Number'
import { Tex, texOf } from '../ui/Tex'

/** What must still be given: what it is, and its unit (SI). */
interface Lacking {
  sentence: string
  unit: string
}

interface Worked {
  unit: string
  text: string
  missing: Record<string, Lacking>
  unused: string[]
  shorter: string[]
  used: Record<string, string>
  /** TeX, with symbols; `numbers` with numbers in their place, empty until nothing is missing. */
  formula: string
  numbers: string
  sentence: string
  source: string
}
type Typed = Record<string, string>

/** What most people come for at a stage; elsewhere the first of its figures. */
const FIRST: Record<string, string> = {
  bootstrap: 'bootstrap_capacitor',
  precharge: 'precharge_time',
  clamp: 'clamp_resistor',
  transformer: 'flux_limit',
  dc_link: 'link_ripple',
  battery: 'terminal_voltage',
}
const words = (name: string) => name.replace(/_/g, ' ')

export default function Alone() {
  const { stage = '' } = useParams()
  const stages = useQuery({ queryKey: ['stages'], queryFn: () => call<AloneStage[]>('stages'), staleTime: Infinity })
  if (stages.error) return <p className="wait">{stages.error.message}</p>
  if (!stages.data) return <p className="wait">Opening …</p>
  const here = stages.data.find((s) => s.name === stage)
  if (!here)
    return (
      <p className="wait">
        There is no stage “{stage}”.{' '}
        <Link className="act" to="/">
          To the shelf
        </Link>
      </p>
    )
  return (
    <div className="frame">
      <header className="top">
        <Link className="name" to="/">
          <Logo />
          Rhombos
        </Link>
        <span className="title">{here.title}, alone</span>
        <div className="tools" style={{ marginLeft: 'auto' }}>
          <LookButton />
        </div>
      </header>
      <Bench key={stage} stage={here} />
    </div>
  )
}

/** The figure from what was typed; where that does not suffice, from usual values in place of what is missing. */
function useWork(stage: AloneStage, figure: string, typed: Typed) {
  const name = `${stage.name}.${figure}`
  const work = (values: Typed) => ({
    queryKey: ['work', name, values],
    queryFn: () => call<Worked>('work', { body: { figure: name, values } }),
    placeholderData: standing<Worked>(name),
    retry: false,
  })
  const own = useQuery(work(typed))
  const asked = own.data?.missing ?? {}
  // What is typed stays a field though it is missing no longer.
  const all = ports(stage, {
    ...Object.fromEntries(Object.keys(typed).map((n) => [n, { sentence: '', unit: '' }])),
    ...asked,
  })
  const missing = all.filter((p) => p.name in asked)
  const assumable = missing.length > 0 && missing.every((p) => p.suggested)
  const assumed = useQuery({ ...work({ ...usual(missing), ...typed }), enabled: assumable })
  return {
    worked: assumable ? (assumed.data ?? own.data) : own.data,
    error: own.error?.message ?? '',
    missing,
    needed: all.filter((p) => p.name in asked || typed[p.name] !== undefined),
  }
}

function Bench({ stage }: { stage: AloneStage }) {
  const [typed, setTyped] = useState<Typed>({})
  const [figure, setFigure] = useState(FIRST[stage.name] ?? stage.figures[0]?.name ?? '')
  const { worked, error, missing, needed } = useWork(stage, figure, typed)
  const givens = stage.inputs.filter((i) => i.kind === 'given')
  const type = (name: string, value: string) =>
    setTyped((t) => Object.fromEntries(Object.entries({ ...t, [name]: value }).filter(([, v]) => v.trim())))
  const field = (i: AloneInput) => (
    <Field key={i.name} input={i} value={typed[i.name] ?? ''} onValue={(v) => type(i.name, v)} />
  )
  return (
    <main className="page">
      <div className="split">
        <section>
          <h1 className="cap">{stage.title}: what shall be worked out</h1>
          <select
            aria-label="Figure"
            value={figure}
            onChange={(e) => setFigure(e.target.value)}
            style={{ fontSize: 17, maxWidth: '100%' }}>
            {stage.figures.map((f) => (
              <option key={f.name} value={f.name}>
                {f.title}
              </option>
            ))}
          </select>
          <div style={{ margin: '18px 0' }} data-testid="worked">
            <Answer
              symbol={stage.figures.find((f) => f.name === figure)?.symbol ?? ''}
              text={worked?.text ?? ''}
              error={error}
              missing={missing}
            />
          </div>
          <h2 className="cap">What it hangs on</h2>
          <div style={{ maxWidth: 430 }}>{needed.map(field)}</div>
          {needed.length > 0 && (
            <p>
              <button className="act" onClick={() => setTyped((t) => ({ ...usual(needed), ...t }))}>
                Fill with usual values
              </button>
            </p>
          )}
          <p className="quiet">
            Type as you would write it: 4k7, 60 nC, 3.3 mH. Several corners stand apart by a semicolon.
          </p>
          {worked && <Beside worked={worked} />}
          {worked && <Formula of={worked} />}
        </section>
        <aside>
          <h2 className="cap">Given</h2>
          {givens.map(field)}
          {givens.length === 0 && <p className="quiet">This stage has no givens of its own.</p>}
        </aside>
      </div>
    </main>
  )
}

/** What else could be typed in place of much that is missing, and what was typed and is not needed. */
function Beside({ worked }: { worked: Worked }) {
  return (
    <>
      {worked.shorter.length > 0 && (
        <p className="quiet">Less is asked for once one of these is given: {worked.shorter.map(words).join(', ')}.</p>
      )}
      {worked.unused.length > 0 && <p className="quiet">Not needed for it: {worked.unused.map(words).join(', ')}.</p>}
    </>
  )
}

/** The stage's ports, and whatever else the server says is missing: an intermediate figure may be typed in too. */
export function ports(stage: AloneStage, missing: Record<string, Lacking>): AloneInput[] {
  const known = new Set(stage.inputs.map((i) => i.name))
  const others = Object.entries(missing).filter(([name]) => !known.has(name))
  return [
    ...stage.inputs.filter((i) => i.kind === 'port'),
    ...others.map(([name, { sentence, unit }]) => ({
      name,
      kind: 'port',
      title: words(name),
      unit,
      symbol: '',
      sentence,
      suggested: '',
    })),
  ]
}

export const usual = (inputs: AloneInput[]): Typed =>
  Object.fromEntries(inputs.filter((i) => i.suggested).map((i) => [i.name, i.suggested]))

interface AnswerProps {
  symbol: string
  text: string
  error: string
  missing: AloneInput[]
}

/** The figure's value; while something is missing, what, and that usual values stand in for it. */
function Answer({ symbol, text, error, missing }: AnswerProps) {
  return (
    <>
      <p style={{ fontSize: 30, margin: 0 }} className={missing.length ? 'quiet' : ''}>
        <Symbol tex={symbol} />
        {!error && text && (
          <>
            {' = '}
            <span className="num" style={{ fontSize: 26 }}>
              {text}
            </span>
          </>
        )}
      </p>
      {error && (
        <p className="wrong" role="alert">
          {error}
        </p>
      )}
      {!error && missing.length > 0 && (
        <p className="quiet" style={{ margin: '6px 0' }}>
          needs {missing.length} more: {missing.map((m) => words(m.name)).join(', ')}
          {text && '. Until then usual values, in grey, stand in.'}
        </p>
      )}
    </>
  )
}

function Formula({ of }: { of: Worked }) {
  return (
    <>
      <h2 className="cap" style={{ marginTop: 26 }}>
        How it is worked out
      </h2>
      {of.formula && <Tex tex={of.formula} />}
      {of.numbers && <Tex tex={`= ${of.numbers} = ${texOf(of.text.split(' | ')[0]!)}`} />}
      <p style={{ margin: '2px 0 16px' }}>
        <Prose>{of.sentence}</Prose>{' '}
        <span className="quiet">
          <Prose>{of.source}</Prose>
        </span>
      </p>
    </>
  )
}

function Field({ input, value, onValue }: { input: AloneInput; value: string; onValue: (value: string) => void }) {
  return (
    <div className="row2">
      <label htmlFor={input.name} title={input.sentence}>
        {input.title} {input.symbol && <Symbol tex={input.symbol} />}
      </label>
      <input
        id={input.name}
        className="num"
        value={value}
        placeholder={input.suggested || input.unit}
        onChange={(e) => onValue(e.target.value)}
      />
    </div>
  )
}
