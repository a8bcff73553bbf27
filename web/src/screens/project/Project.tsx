/** One project: top bar, the line, the corners, and the chosen view. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { memo, Suspense, useCallback, useMemo, useRef, useState } from 'react'
import { Link, Navigate, Route, Routes, useLocation, useNavigate, useParams } from 'react-router'
import { call, type Design, type Project } from '../../api'
import { tightestPlace } from '../../state/figures'
import { fieldTitle } from '../../state/differences'
import { useSheet } from '../../state/sheet'
import { ProjectProvider, useOpened, useProject, useStanding, useWorked, useWorkspace } from '../../state/workspace'
import { Boundary } from '../../ui/Boundary'
import { Changed } from '../../ui/Changed'
import { Corners } from '../../ui/Corners'
import { ConflictDialog, FinderDialog, KeysDialog, RevisionDialog } from '../../ui/dialogs'
import { Line } from '../../ui/line/Line'
import { StageSheet } from '../stage/StageSheet'
import { Foot } from './Foot'
import { TopBar } from './TopBar'
import { useKeys, type Dialog } from './useKeys'
import { STAGES, TABS, VIEWS } from './views'

export default function ProjectScreen() {
  const { id } = useParams()
  const client = useQueryClient()
  // Never from what the page remembers: a project is opened with what the server has now.
  const query = useQuery({ queryKey: ['project', id], queryFn: () => call<Project>(`projects/${id}`), gcTime: 0 })
  const reload = useCallback(() => void client.invalidateQueries({ queryKey: ['project', id] }), [client, id])
  if (query.error)
    return (
      <p className="wait">
        {query.error.message}{' '}
        <Link className="act" to="/">
          To the shelf
        </Link>
      </p>
    )
  if (!query.data || !query.isFetchedAfterMount) return <p className="wait">Opening the project …</p>
  return (
    <ProjectProvider key={id} project={query.data} reload={reload}>
      <Frame />
    </ProjectProvider>
  )
}

/** How it stands, for styles and for those who watch from outside: written on the frame, so that nothing is drawn anew for it. */
const Frame = memo(function Frame() {
  const frame = useRef<HTMLDivElement>(null)
  useStanding(({ solving }, { save, version }) => {
    Object.assign(frame.current!.dataset, { solving: String(solving), save: save.kind, version: String(version) })
  })
  return (
    <div className="frame" ref={frame}>
      <Inside />
    </div>
  )
})

const Inside = memo(function Inside() {
  const { base } = useWorkspace('base')
  const solved = useWorked((w) => !!w.meta && !!w.sheet)
  const [dialog, setDialog] = useState<Dialog>(null)
  const navigate = useNavigate()
  const close = useCallback(() => setDialog(null), [])
  const go = useCallback(
    (path: string) => {
      setDialog(null)
      void navigate(`${base}/${path}`)
    },
    [navigate, base],
  )
  return (
    <>
      <Keys show={setDialog} />
      <a className="skip" href="#view">
        Skip to the view
      </a>
      <TopBar show={setDialog} />
      {solved ? (
        <>
          <Line />
          <Corners />
          <Troubles />
          <Changed />
          <Views />
        </>
      ) : (
        <>
          <Troubles />
          <NoSheet />
        </>
      )}
      <Foot />
      <KeysDialog open={dialog === 'keys'} onClose={close} />
      <FinderDialog open={dialog === 'finder'} onClose={close} go={go} />
      <RevisionDialog open={dialog === 'revision'} onClose={close} />
      <ConflictDialog />
    </>
  )
})

/** The keys, apart from what is drawn: they read much of the workspace. */
function Keys({ show }: { show: (dialog: Dialog) => void }) {
  useKeys(show)
  return null
}

/** Before the first sheet: it is being solved, or the draft cannot be solved as it stands and the way back is shown. */
function NoSheet() {
  const { project } = useProject('project')
  const { problem, away, edit } = useWorkspace('problem', 'away', 'edit')
  const [said, setSaid] = useState('')
  const back = () =>
    call<{ design: Design }>(`projects/${project.id}/revisions/${project.head}`)
      .then((r) => edit(`Back to revision ${project.head}`, () => r.design))
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  if (!problem || away)
    return <p className="wait">{away ? 'Waiting for Rhombos to answer …' : 'Solving all corners …'}</p>
  return (
    <p className="wait">
      The draft cannot be solved as it stands.{' '}
      <button className="act" onClick={() => void back()}>
        Go back to revision {project.head}
      </button>
      ; undo then brings the draft back. {said && <span className="wrong">{said}</span>}
    </p>
  )
}

/** What stands in the way of saving or solving, and what to do about it. */
function Troubles() {
  // Saving and saved are told at the top, and are no trouble.
  const save = useOpened((p) => (p.save.kind === 'away' || p.save.kind === 'refused' ? p.save : null))
  const news = useOpened((p) => p.news.length > 0)
  const { problem, away, undo, canUndo } = useWorkspace('problem', 'away', 'undo', 'canUndo')
  const solved = useWorked((w) => !!w.sheet)
  return (
    <>
      {save?.kind === 'away' && (
        <div className="strip" role="alert">
          <b>{save.message}</b> <span>Saving is tried again every two seconds.</span>
        </div>
      )}
      {save?.kind === 'refused' && (
        <div className="strip" role="alert">
          <b>This cannot be saved: {save.message}</b>{' '}
          <span>It is kept here. Mend it or undo it; what was saved stands.</span>{' '}
          {canUndo && (
            <button className="act" onClick={undo}>
              Undo the edit
            </button>
          )}
        </div>
      )}
      {news && <News />}
      {problem && away && save?.kind !== 'away' && (
        <div className="strip" role="alert">
          <b>{problem}</b> <span>It is asked again every two seconds.</span>
        </div>
      )}
      {problem && !away && (
        <div className="strip" role="alert">
          <b>{problem}</b> {solved && <span>The sheet below is the last one that was solved.</span>}{' '}
          {canUndo && (
            <button className="act" onClick={undo}>
              Undo the edit
            </button>
          )}
        </div>
      )}
    </>
  )
}

/** What was edited in another window, and is in this one now. */
function News() {
  const { news, told } = useProject('news', 'told')
  const { meta, design } = useWorkspace('meta', 'design')
  return (
    <div className="strip" role="status">
      <b>Edited elsewhere, and brought in here:</b>
      {news.slice(0, 7).map((field) => (
        <span key={field}>{fieldTitle(field, design, meta)}</span>
      ))}
      {news.length > 7 && <span>and {news.length - 7} more</span>}
      <button className="act" onClick={told}>
        Dismiss
      </button>
    </div>
  )
}

function Views() {
  const { design } = useWorkspace('design')
  const { pathname } = useLocation()
  const here = useMemo(() => ({ pathname, design }), [pathname, design])
  const view = pathname.split('/')[3] ?? STAGES
  const title = TABS.find(([path]) => path === view)?.[1]
  return (
    <Boundary what="this view" of={here}>
      <title>{`${title ? `${title}, ` : ''}${design.title} · Rhombos`}</title>
      <div id="view" tabIndex={-1} />
      <Screens />
    </Boundary>
  )
}

/** The view that the address names. */
const Screens = memo(function Screens() {
  const { base } = useWorkspace('base')
  const none = (
    <p className="wait">
      This project has no such page.{' '}
      <Link className="act" to={`${base}/brief`}>
        To its brief
      </Link>
    </p>
  )
  return (
    <Suspense fallback={<p className="wait">Opening …</p>}>
      <Routes>
        <Route path="/" element={<ToTightest />} />
        <Route path="stages" element={<ToTightest />} />
        <Route path="stages/:place" element={<StageSheet />} />
        {VIEWS.map(({ path, screen: Screen }) => (
          <Route key={path} path={path} element={<Screen />} />
        ))}
        <Route path="*" element={none} />
      </Routes>
    </Suspense>
  )
})

/** Where no stage is named, the one with the least room: what a person would look at next. */
function ToTightest() {
  const { base } = useWorkspace('base')
  const { meta, sheet } = useSheet()
  return <Navigate to={`${base}/stages/${tightestPlace(meta, sheet)}`} replace />
}
