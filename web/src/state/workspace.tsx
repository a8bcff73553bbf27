/** What is being worked on: the design being edited with its solved sheet, and, in a project, its draft on the server. */
import { createContext, use, useMemo, useState, type ReactNode } from 'react'
import { useLocation } from 'react-router'
import type { Project } from '../api'
import { begin, shelfOf } from './draft/kept'
import { useDraft, type Draft } from './draft/useDraft'
import { useHistory, type History } from './history'
import { useSolving, type Solving } from './solving'

export interface Workspace extends History, Solving {
  /** Address under which the workspace stands. */
  base: string
  corner: number
  setCorner: (corner: number) => void
}
export interface OpenProject extends Draft {
  project: Project
  reload: () => void
}

export const WorkspaceContext = createContext<Workspace | null>(null)
export const ProjectContext = createContext<OpenProject | null>(null)

export const useWorkspace = (): Workspace => {
  const workspace = use(WorkspaceContext)
  if (!workspace) throw new Error('nothing is being worked on')
  return workspace
}
export const useProject = (): OpenProject => {
  const project = use(ProjectContext)
  if (!project) throw new Error('no project is open')
  return project
}

/** A workspace over a history of edits; `place` is the one that is open. The corner is the line-up's first until one is chosen. */
export function useWorking(history: History, base: string, place: string | null): Workspace {
  const [chosen, setCorner] = useState<number | null>(null)
  const solving = useSolving(history.design, place)
  const count = solving.meta?.corners.length ?? 0
  const corner = chosen !== null && chosen < count ? chosen : (solving.meta?.first ?? 0)
  const { design, lastEdit, edit, bring, undo, redo, canUndo, canRedo } = history
  const { meta, sheet, problem, away, solvedIn, changed, former, dismiss } = solving
  const lags = solving.solving
  return useMemo(
    () => ({
      ...{ design, lastEdit, edit, bring, undo, redo, canUndo, canRedo },
      ...{ meta, sheet, problem, away, solvedIn, changed, former, dismiss, solving: lags },
      ...{ base, corner, setCorner },
    }),
    [
      design,
      lastEdit,
      edit,
      bring,
      undo,
      redo,
      canUndo,
      canRedo,
      meta,
      sheet,
      problem,
      away,
      solvedIn,
      changed,
      former,
      dismiss,
      lags,
      base,
      corner,
    ],
  )
}

interface Props {
  project: Project
  reload: () => void
  children: ReactNode
}

export function ProjectProvider({ project, reload, children }: Props) {
  const [start] = useState(() => begin(project.draft, shelfOf(project.id, project.created).found()))
  const [, , , view, place] = useLocation().pathname.split('/')
  const history = useHistory(start.design)
  const draft = useDraft(project, start, history, reload)
  const workspace = useWorking(history, `/project/${project.id}`, view === 'stages' ? (place ?? null) : null)
  const open = useMemo(() => ({ project, reload, ...draft }), [project, reload, draft])
  return (
    <ProjectContext value={open}>
      <WorkspaceContext value={workspace}>{children}</WorkspaceContext>
    </ProjectContext>
  )
}
