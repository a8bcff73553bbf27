/** One stage alone, the whole of it: its sheet with verdicts, picture, remedies and why; its ports are givens. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { call, type BuildPack, type Design, type StageRow } from '../api'
import { useHistory } from '../state/history'
import { Provide, useWorked, useWorking, useWorkspace } from '../state/workspace'
import { Changed } from '../ui/Changed'
import { Corners } from '../ui/Corners'
import { LookButton } from '../ui/LookButton'
import { Logo } from '../ui/Mark'
import { saveText } from '../ui/save'
import { Sheet } from './stage/StageSheet'

/** What of a design is kept in the address: all that a person decided. */
type Decided = Pick<Design, 'givens' | 'choices' | 'pins'>
const NOTHING: Decided = { givens: {}, choices: {}, pins: {} }

export function designOf(stage: string, title: string, kept: string | null): Design {
  let decided = NOTHING
  try {
    decided = { ...NOTHING, ...(JSON.parse(kept ?? '{}') as Partial<Decided>) }
  } catch {
    // An address that was cut short begins anew.
  }
  return { format: 'rhombos-design', version: 1, title, lineup: `${stage}_alone`, loads: [], parts: {}, ...decided }
}

export default function Alone() {
  const { stage = '' } = useParams()
  const stages = useQuery({ queryKey: ['stages'], queryFn: () => call<StageRow[]>('stages'), staleTime: Infinity })
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
  return <Standing key={stage} stage={stage} title={here.title} />
}

function Standing({ stage, title }: { stage: string; title: string }) {
  const [params, setParams] = useSearchParams()
  const [start] = useState(() => designOf(stage, `${title}, alone`, params.get('design')))
  const history = useHistory(start)
  const workspace = useWorking(history, `/alone/${stage}`, stage)
  const { design } = history
  useEffect(() => {
    const { givens, choices, pins } = design
    const decided = JSON.stringify({ givens, choices, pins })
    setParams(
      (p) => {
        const next = new URLSearchParams(p)
        if (decided === JSON.stringify(NOTHING)) next.delete('design')
        else next.set('design', decided)
        return next
      },
      { replace: true },
    )
  }, [design, setParams])
  return (
    <Provide workspace={workspace}>
      <Frame title={title} />
    </Provide>
  )
}

function Frame({ title }: { title: string }) {
  const { meta, problem, solving, undo, canUndo } = useWorkspace('meta', 'problem', 'solving', 'undo', 'canUndo')
  const solved = useWorked((w) => !!w.sheet)
  const here = meta?.places[0]
  // What is the same at every corner has none to choose from.
  const hangsOnCorners = !!meta && Object.values(meta.figures).some((f) => f.kind === 'operation')
  return (
    <div className="frame" data-solving={solving}>
      <Top title={title} />
      {problem && (
        <div className="strip" role="alert">
          <b>{problem}</b>{' '}
          {canUndo && (
            <button className="act" onClick={undo}>
              Undo the edit
            </button>
          )}
        </div>
      )}
      {meta && solved && here ? (
        <>
          {hangsOnCorners && <Corners />}
          <Changed />
          <Sheet here={here} meta={meta} />
        </>
      ) : (
        !problem && <p className="wait">Solving all corners …</p>
      )}
    </div>
  )
}

function Top({ title }: { title: string }) {
  const { design, undo, redo, canUndo, canRedo } = useWorkspace('design', 'undo', 'redo', 'canUndo', 'canRedo')
  const [said, setSaid] = useState('')
  const navigate = useNavigate()
  const parts = () =>
    call<BuildPack>('build', { body: { design } })
      .then((pack) => saveText(pack.csv, `${design.title} parts.csv`, 'text/csv'))
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  const keep = () =>
    call<{ id: number }>('projects', { body: { title: design.title, design } })
      .then((made) => navigate(`/project/${made.id}/stages`))
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  return (
    <header className="top">
      <Link className="name" to="/" aria-label="Rhombos, to the shelf">
        <Logo />
        Rhombos
      </Link>
      <title>{`${title}, alone · Rhombos`}</title>
      <h1 className="title">{title}, alone: its ports are given, at usual values until you put your own</h1>
      {said && (
        <span className="wrong" role="alert">
          {said}
        </span>
      )}
      <div className="tools" style={{ marginLeft: 'auto' }}>
        <button className="tool" onClick={undo} disabled={!canUndo}>
          undo
        </button>
        <button className="tool" onClick={redo} disabled={!canRedo}>
          redo
        </button>
        <button className="tool" onClick={() => void parts()}>
          parts
        </button>
        <button
          className="tool"
          onClick={() => saveText(`${JSON.stringify(design, null, 2)}\n`, `${design.title}.json`, 'application/json')}>
          design file
        </button>
        <Button variant={'copper' as never} onClick={() => void keep()}>
          Keep as a project
        </Button>
        <LookButton />
      </div>
    </header>
  )
}
