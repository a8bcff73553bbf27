/** A stage: what is given, the worked figures as a ledger, and what it looks like with the judgements in sentences. */
import { useEffect, useMemo, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { StagePicture } from '../../pictures/StagePicture'
import { titleOf, worked } from '../../state/figures'
import { lettersOn, meantForPage } from '../../state/keys'
import { unpinned } from '../../state/moves'
import { useWorkspace } from '../../state/workspace'
import { WhyPanel, type Mode } from '../why/WhyPanel'
import { Givens } from './Givens'
import { Judgements } from './Judgements'
import { Ledger } from './Ledger'
import { PickPanel } from './PickPanel'

const MODES: Record<string, Mode> = { w: 'why', p: 'pin', g: 'seek' }

export function StageSheet() {
  const { place = '' } = useParams()
  const { meta, sheet, design, edit } = useWorkspace()
  const [params, setParams] = useSearchParams()
  const open = params.get('figure')
  const navigate = useNavigate()
  const [mode, setMode] = useState<Mode>('why')
  const here = meta?.places.find((p) => p.name === place)
  const first = useMemo(() => meta && worked(meta, place)[0], [meta, place])
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!meantForPage(e)) return
      if (e.key === 'Escape') setParams({})
      const wanted = MODES[e.key]
      if (!lettersOn() || !wanted) return
      e.preventDefault()
      if (!open && first) setParams({ figure: first })
      if (wanted === 'pin' && open && design.pins[open]) edit(`Unpinned ${titleOf(meta, open)}`, unpinned(open))
      else setMode(wanted)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [open, first, setParams, meta, design, edit])
  if (!meta || !sheet) return null
  if (!here) return <p className="wait">This line-up has no stage “{place}”. Choose one on the line above.</p>
  const select = (key: string) => {
    const owner = meta.figures[key]?.place ?? key.split('.')[0]!
    setMode('why')
    if (owner !== place) void navigate(`../stages/${owner}?figure=${key}`, { relative: 'path' })
    else setParams(open === key ? {} : { figure: key })
  }
  const close = () => setParams({})
  return (
    <main className="work">
      <section className="col" aria-label="Given">
        <Givens place={here} select={select} />
      </section>
      <section className="col" aria-label="Worked figures">
        <Ledger place={here} open={open} select={select} />
      </section>
      <aside className="col side" aria-label="Why, judgements and picture">
        {open && meta.picks[open] && <PickPanel pickKey={open} onClose={close} />}
        {open && !meta.picks[open] && (
          <WhyPanel figure={open} select={select} mode={mode} setMode={setMode} onClose={close} />
        )}
        <Judgements place={place} select={select} />
        {!open && <StagePicture place={here} />}
      </aside>
    </main>
  )
}
