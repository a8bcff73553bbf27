/** A stage: what is given, the worked figures as a ledger, and what it looks like with the judgements in sentences. */
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import type { LineUp, PlaceMeta } from '../../api'
import { StagePicture } from '../../pictures/StagePicture'
import { Awaited } from '../../schematic/Awaited'
import { checksAt, titleOf, worked, worstFirst } from '../../state/figures'
import { lettersOn, meantForPage } from '../../state/keys'
import { unpinned } from '../../state/moves'
import { useSelected } from '../../state/sheet'
import { useNow, useWorkspace } from '../../state/workspace'
import { actOf } from '../../ui/keyTable'
import { WhyPanel, type Mode } from '../why/WhyPanel'
import { Givens } from './Givens'
import { Judgements } from './Judgements'
import { Ledger } from './Ledger'
import { PickPanel } from './PickPanel'

/** Fetched where there is a circuit to be drawn. */
const Schematic = lazy(() => import('../../schematic/Schematic'))

export function StageSheet() {
  const { place = '' } = useParams()
  const { base } = useWorkspace('base')
  const meta = useSelected((s) => s.meta)
  const here = meta.places.find((p) => p.name === place)
  if (!here)
    return (
      <p className="wait">
        This line-up has no stage “{place}”. Choose one on the line above, or go{' '}
        <Link className="act" to={`${base}/stages`}>
          to the one with the least room
        </Link>
        .
      </p>
    )
  return <Sheet key={place} here={here} meta={meta} />
}

/** The sheet of one place; which figure is open stands in the address. */
export function Sheet({ here, meta }: { here: PlaceMeta; meta: LineUp }) {
  const place = here.name
  const [params, setParams] = useSearchParams()
  const open = params.get('figure')
  const navigate = useNavigate()
  const { base } = useWorkspace('base')
  const [mode, setMode] = useState<Mode>('why')
  const show = useCallback(
    (figure: string | null) =>
      setParams((p) => {
        const next = new URLSearchParams(p)
        if (figure) next.set('figure', figure)
        else next.delete('figure')
        return next
      }),
    [setParams],
  )
  useModes({ place, open, show, setMode })
  const select = useCallback(
    (named: string) => {
      const key = meta.same[named] ?? named
      const owner = meta.picks[key]?.place ?? meta.figures[key]?.place ?? key.split('.')[0]!
      setMode('why')
      if (owner !== place && meta.places.some((p) => p.name === owner))
        void navigate(`${base}/stages/${owner}?figure=${key}`)
      else show(open === key ? null : key)
    },
    [base, meta, place, navigate, show, open],
  )
  const close = useCallback(() => show(null), [show])
  return (
    <main className="work">
      <section className="col" aria-label="Given">
        <Givens place={here} select={select} />
      </section>
      <section className="col" aria-label="Worked figures">
        {here.schematic && (
          <Suspense fallback={<Awaited of="circuit" place={here.name} says="Drawing the circuit …" />}>
            <Schematic place={here} select={select} />
          </Suspense>
        )}
        <Ledger place={here} open={open} select={select} />
      </section>
      <aside className="col side" aria-label="Why, judgements and picture">
        {open && meta.picks[open] && <PickPanel pickKey={open} onClose={close} />}
        {open && !meta.picks[open] && meta.figures[open] && (
          <WhyPanel figure={open} select={select} mode={mode} setMode={setMode} onClose={close} />
        )}
        <Judgements place={place} select={select} />
        {!open && <StagePicture place={here} />}
      </aside>
    </main>
  )
}

interface Modes {
  place: string
  open: string | null
  show: (figure: string | null) => void
  setMode: (mode: Mode) => void
}

/** The keys that act on a stage's sheet: why, pin, seek, and the walk through what does not hold. */
function useModes({ place, open, show, setMode }: Modes): void {
  const now = useNow()
  const meta = useSelected((s) => s.meta)
  const first = useMemo(() => worked(meta, place)[0], [meta, place])
  useEffect(() => {
    const nextJudgement = () => {
      const sheet = now().sheet!
      const bad = worstFirst(sheet, checksAt(meta, place)).filter((key) => sheet.checks[key]!.verdict !== 'holds')
      const demands = bad.map((key) => meta.checks[key]!.demand)
      const next = demands[(open ? demands.indexOf(open) + 1 : 0) % Math.max(demands.length, 1)]
      if (next) show(next)
    }
    const onKey = (e: KeyboardEvent) => {
      if (!meantForPage(e)) return
      const act = actOf(e.key)
      if (e.key === 'Escape') show(null)
      if (!lettersOn() || !act) return
      if (act === 'judgement') nextJudgement()
      else if (act === 'why' || act === 'pin' || act === 'seek') {
        if (!open && first) show(first)
        const { design, edit } = now()
        if (act === 'pin' && open && design.pins[open]) edit(`Unpinned ${titleOf(meta, open)}`, unpinned(open))
        else setMode(act)
      } else return
      e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [open, first, show, setMode, meta, now, place])
}
