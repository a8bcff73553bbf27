/** One open project: the design being edited, its solved sheet, the corner looked at, and its draft on the server. */
import { createContext, use, useState, type ReactNode } from 'react'
import { useQuery } from '@tanstack/react-query'
import { call, type LineUpMeta, type Project } from '../api'
import { useDraft, type Draft } from './draft'
import { useHistory, type History } from './history'
import { kept } from './kept'
import { useSolving, type Solving } from './solving'

/** The third corner is full load at the nominal source: what a person means when no corner is named. */
const FIRST_CORNER = 2

export interface Workspace extends History, Solving, Draft {
  project: Project
  meta: LineUpMeta | undefined
  corner: number
  setCorner: (corner: number) => void
  reload: () => void
}

export const WorkspaceContext = createContext<Workspace | null>(null)
export const useWorkspace = (): Workspace => {
  const workspace = use(WorkspaceContext)
  if (!workspace) throw new Error('no project is open')
  return workspace
}

interface Props {
  project: Project
  reload: () => void
  children: ReactNode
}

export function WorkspaceProvider({ project, reload, children }: Props) {
  const [start] = useState(() => kept(project.id, project.draft) ?? { design: project.draft.design, follows: true })
  const [corner, setCorner] = useState(FIRST_CORNER)
  const history = useHistory(start.design)
  const solving = useSolving(history.design)
  const draft = useDraft(project, history, !start.follows, reload)
  const loads = history.design.loads.map((l) => l.place).join(',')
  const meta = useQuery({
    queryKey: ['lineup', history.design.lineup, loads],
    queryFn: () => call<LineUpMeta>(`lineups/${history.design.lineup}?loads=${loads}`),
    staleTime: Infinity,
    placeholderData: (old) => old,
  }).data
  return (
    <WorkspaceContext value={{ ...history, ...solving, ...draft, project, meta, corner, setCorner, reload }}>
      {children}
    </WorkspaceContext>
  )
}
