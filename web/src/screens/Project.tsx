/** One project: top bar, the line, the corners, and the chosen view. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Suspense, lazy, useCallback, useEffect, useState } from 'react'
import { Link, NavLink, Navigate, Route, Routes, useLocation, useNavigate, useParams } from 'react-router'
import { call, type Project } from '../api'
import { WorkspaceProvider, useWorkspace } from '../state/workspace'
import { Corners } from '../ui/Corners'
import { Line } from '../ui/Line'
import { Logo } from '../ui/Mark'
import { Changed } from '../ui/Changed'
import { ConflictDialog, FinderDialog, KeysDialog, RevisionDialog, lettersOn } from '../ui/dialogs'
import { Brief } from './Brief'
import { StageSheet } from './StageSheet'

const Scope = lazy(() => import('./Scope'))
const Build = lazy(() => import('./Build'))
const LineUps = lazy(() => import('./LineUps'))
const Log = lazy(() => import('./Log'))
const TABS = [
  ['brief', 'Brief'],
  ['line-up', 'Line-up'],
  ['stages', 'Stages'],
  ['scope', 'Scope'],
  ['build', 'Build'],
  ['log', 'Log'],
] as const

export default function ProjectScreen() {
  const { id } = useParams()
  const client = useQueryClient()
  const query = useQuery({ queryKey: ['project', id], queryFn: () => call<Project>(`projects/${id}`) })
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
  if (!query.data) return <p className="wait">Opening the project …</p>
  return (
    <WorkspaceProvider key={id} project={query.data} reload={reload}>
      <Frame />
    </WorkspaceProvider>
  )
}

function Frame() {
  const w = useWorkspace()
  const [dialog, setDialog] = useState<'keys' | 'finder' | 'revision' | null>(null)
  const navigate = useNavigate()
  const view = useLocation().pathname.split('/')[3] ?? 'stages'
  useKeys(setDialog)
  const verdicts = w.sheet ? Object.values(w.sheet.checks).map((c) => c.verdict) : []
  const count = (v: string) => verdicts.filter((x) => x === v).length
  const dark = () => {
    const on = document.documentElement.classList.toggle('dark')
    localStorage.setItem('rhombos-look', on ? 'dark' : 'light')
  }
  return (
    <div className="frame" data-solving={w.solving} data-save={w.save.kind} data-version={w.version}>
      <header className="top">
        <Link className="name" to="/" aria-label="Rhombos, to the shelf">
          <Logo />
          Rhombos
        </Link>
        <span className="title" title={w.design.title}>
          {w.design.title}
        </span>
        {w.save.kind === 'away' ? (
          <button className="state away" onClick={w.retry} title={w.save.message}>
            not saved · kept here · try now
          </button>
        ) : (
          <button className="state" onClick={() => setDialog('revision')} title="Save as a revision">
            rev {w.project.head} ·{' '}
            {w.save.kind === 'saving' ? 'saving …' : w.save.kind === 'conflict' ? 'two sides' : 'draft saved'}
          </button>
        )}
        <nav className="tabs" aria-label="Views">
          {TABS.map(([path, name]) => (
            <NavLink
              key={path}
              to={`/project/${w.project.id}/${path}`}
              className={({ isActive }) => (isActive ? 'active' : '')}>
              {name}
            </NavLink>
          ))}
        </nav>
        <div className="tools">
          <button className="tool" onClick={w.undo} disabled={!w.canUndo} aria-label="Undo">
            undo
          </button>
          <button className="tool" onClick={() => setDialog('finder')}>
            / find
          </button>
          <button className="tool" onClick={() => setDialog('keys')}>
            ? keys
          </button>
          <button className="tool" onClick={dark} aria-label="Light or dark">
            ◐
          </button>
        </div>
      </header>
      <Line />
      <Corners />
      {w.save.kind === 'away' && (
        <div className="strip" role="alert">
          <b>{w.save.message}</b> <span>Saving is tried again every two seconds.</span>
        </div>
      )}
      {w.problem && (
        <div className="strip" role="alert">
          <b>{w.problem}</b> <span>The sheet below is the last one that was solved.</span>{' '}
          <button className="act" onClick={w.undo}>
            Undo the edit
          </button>
        </div>
      )}
      <Changed />
      {w.meta && w.sheet ? (
        <Suspense fallback={<p className="wait">Opening …</p>}>
          <Routes>
            <Route path="/" element={<Navigate to="stages/transformer" replace />} />
            <Route path="brief" element={<Brief />} />
            <Route path="line-up" element={<LineUps />} />
            <Route path="stages" element={<Navigate to="transformer" replace />} />
            <Route path="stages/:place" element={<StageSheet />} />
            <Route path="scope" element={<Scope />} />
            <Route path="build" element={<Build />} />
            <Route path="log" element={<Log />} />
            <Route
              path="*"
              element={
                <p className="wait">
                  This project has no such page.{' '}
                  <Link className="act" to={`/project/${w.project.id}/brief`}>
                    To its brief
                  </Link>
                </p>
              }
            />
          </Routes>
        </Suspense>
      ) : (
        <p className="wait">Solving all corners …</p>
      )}
      <footer className="foot">
        <span>
          <kbd>[</kbd> <kbd>]</kbd> walk the line
        </span>
        <span>
          <kbd>1</kbd>–<kbd>9</kbd> corner
        </span>
        {view === 'stages' && (
          <>
            <span>
              <kbd>w</kbd> why
            </span>
            <span>
              <kbd>p</kbd> pin
            </span>
            <span>
              <kbd>g</kbd> make equal to …
            </span>
          </>
        )}
        <span>
          <kbd>f</kbd> swap front end
        </span>
        <span>
          <kbd>Ctrl Z</kbd> undo
        </span>
        <span className="gap" data-testid="summary">
          {w.sheet
            ? `solved in ${Math.round(w.solvedIn)} ms · ${count('holds')} hold · ${count('tight')} tight · ${count('fails')} fail${count('unknown') ? ` · ${count('unknown')} unknown` : ''}`
            : ''}
        </span>
      </footer>
      <KeysDialog open={dialog === 'keys'} onClose={() => setDialog(null)} />
      <FinderDialog
        open={dialog === 'finder'}
        onClose={() => setDialog(null)}
        go={(path) => {
          setDialog(null)
          void navigate(`/project/${w.project.id}/${path}`)
        }}
      />
      <RevisionDialog open={dialog === 'revision'} onClose={() => setDialog(null)} />
      <ConflictDialog />
    </div>
  )
}

const OTHER: Record<string, string> = {
  ferrite_push_pull_link_bridge: 'ferrite_bridge_link_bridge',
  ferrite_bridge_link_bridge: 'ferrite_push_pull_link_bridge',
}

function useKeys(setDialog: (d: 'keys' | 'finder' | 'revision' | null) => void) {
  const w = useWorkspace()
  const navigate = useNavigate()
  const { pathname } = useLocation()
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const key = e.key.toLowerCase()
      if ((e.ctrlKey || e.metaKey) && (key === 'z' || key === 'y')) {
        e.preventDefault()
        if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
        if (key === 'y' || e.shiftKey) w.redo()
        else w.undo()
        return
      }
      const target = e.target as HTMLElement
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) ||
        target.closest('[role=dialog]') ||
        !lettersOn()
      )
        return
      const path = w.meta?.places.filter((p) => p.section !== 'loads' && p.section !== 'whole').map((p) => p.name) ?? []
      const here = path.indexOf(pathname.split('/')[4] ?? '')
      const base = `/project/${w.project.id}`
      if (e.key === '[' || e.key === ']')
        void navigate(`${base}/stages/${path[(here + (e.key === ']' ? 1 : path.length - 1)) % path.length] ?? path[0]}`)
      else if (/^[1-9]$/.test(e.key)) w.setCorner(Number(e.key) - 1)
      else if (e.key === '?') setDialog('keys')
      else if (e.key === '/') setDialog('finder')
      else if (e.key === 's') setDialog('revision')
      else if (e.key === 'f') w.edit('Swapped the front end', (d) => ({ ...d, lineup: OTHER[d.lineup] ?? d.lineup }))
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [w, navigate, pathname, setDialog])
}
