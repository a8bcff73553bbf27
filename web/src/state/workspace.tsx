/** What is being worked on: the design being edited with its solved sheet, and, in a project, its draft on the server. */
import {
  createContext,
  memo,
  use,
  useLayoutEffect,
  useMemo,
  useState,
  useSyncExternalStore,
  type ReactNode,
} from 'react'
import { useLocation } from 'react-router'
import type { Project } from '../api'
import { begin, shelfOf } from './draft/kept'
import { useDraft, type OpenProject } from './draft/useDraft'
import { useHistory, type History } from './history'
import { useSolving, type Solving } from './solving'
import { useParts, useStoreOf, type Store } from './store'

export interface Workspace extends History, Solving {
  /** Address under which the workspace stands. */
  base: string
  corner: number
  setCorner: (corner: number) => void
}

export type { OpenProject }
export const WorkspaceContext = createContext<Store<Workspace> | null>(null)
const ProjectContext = createContext<Store<OpenProject> | null>(null)

function need<T extends object>(store: Store<T> | null, what: string): Store<T> {
  if (!store) throw new Error(what)
  return store
}
const nothing = 'nothing is being worked on'
const closed = 'no project is open'

/** What is named of the workspace: whoever asks is drawn anew only when some of that is another. */
export const useWorkspace = <K extends keyof Workspace>(...names: K[]): Pick<Workspace, K> =>
  useParts(need(use(WorkspaceContext), nothing), names)

/** Something that is read off the workspace; `select` gives the same object as long as that is the same. */
export function useWorked<T>(select: (workspace: Workspace) => T): T {
  const store = need(use(WorkspaceContext), nothing)
  return useSyncExternalStore(store.subscribe, () => select(store.get()))
}

/** What is named of the open project. */
export function useProject<K extends keyof OpenProject>(...names: K[]): Pick<OpenProject, K> {
  return useParts(need(use(ProjectContext), closed), names)
}

/** Something that is read off the open project. */
export function useOpened<T>(select: (project: OpenProject) => T): T {
  const store = need(use(ProjectContext), closed)
  return useSyncExternalStore(store.subscribe, () => select(store.get()))
}

/** Says how workspace and project stand, at first and whenever either is another; nothing is drawn for it. */
export function useStanding(say: (workspace: Workspace, project: OpenProject) => void): void {
  const workspace = need(use(WorkspaceContext), nothing)
  const project = need(use(ProjectContext), closed)
  useLayoutEffect(() => {
    const told = () => say(workspace.get(), project.get())
    told()
    const ends = [workspace.subscribe(told), project.subscribe(told)]
    return () => ends.forEach((end) => end())
  })
}

/** What is being worked on, read when something happens and not while drawing. */
export const useNow = (): (() => Workspace) => need(use(WorkspaceContext), nothing).get

interface Provided {
  workspace: Store<Workspace>
  /** Where a project is open. */
  project?: Store<OpenProject>
  children: ReactNode
}

/** Hands out the workspace, and the project, to what is below. */
export const Provide = memo(function Provide({ workspace, project, children }: Provided) {
  return (
    <ProjectContext value={project ?? null}>
      <WorkspaceContext value={workspace}>{children}</WorkspaceContext>
    </ProjectContext>
  )
})

/** A workspace over a history of edits; `place` is the one that is open. The corner is the line-up's first until one is chosen. */
export function useWorking(history: History, base: string, place: string | null): Store<Workspace> {
  const [chosen, setCorner] = useState<number | null>(null)
  const solving = useSolving(history.design, place)
  const count = solving.meta?.corners.length ?? 0
  const corner = chosen !== null && chosen < count ? chosen : (solving.meta?.first ?? 0)
  const { design, lastEdit, edit, bring, undo, redo, canUndo, canRedo } = history
  const { meta, sheet, solved, problem, away, solvedIn, changed, former, dismiss } = solving
  const lags = solving.solving
  const now = useMemo(
    () => ({
      ...{ design, lastEdit, edit, bring, undo, redo, canUndo, canRedo },
      ...{ meta, sheet, solved, problem, away, solvedIn, changed, former, dismiss, solving: lags },
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
      solved,
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
  return useStoreOf<Workspace>(now)
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
  const open = useDraft(project, start, history, reload)
  const workspace = useWorking(history, `/project/${project.id}`, view === 'stages' ? (place ?? null) : null)
  return (
    <Provide workspace={workspace} project={open}>
      {children}
    </Provide>
  )
}
