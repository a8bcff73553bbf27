/** One open project: the design being edited, its solved sheet, undo, autosave, conflicts. */
import { createContext, use, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react'
import { useQuery } from '@tanstack/react-query'
import { call, Refused, type Design, type LineUpMeta, type Project, type Sheet } from '../api'
import { changes, type Change } from './changes'
import { keep, kept, forget } from './kept'

export type SaveState =
  | { kind: 'saved' }
  | { kind: 'saving' }
  | { kind: 'away'; message: string }
  | { kind: 'conflict'; theirs: { version: number; design: Design } }
interface Step {
  design: Design
  label: string
}
export interface Workspace {
  project: Project
  design: Design
  meta: LineUpMeta | undefined
  sheet: Sheet | undefined
  solving: boolean
  problem: string
  corner: number
  setCorner: (corner: number) => void
  edit: (label: string, change: (design: Design) => Design) => void
  undo: () => void
  redo: () => void
  canUndo: boolean
  canRedo: boolean
  changed: Change[]
  former: Record<string, number | null>
  lastEdit: string
  dismiss: () => void
  save: SaveState
  saveRevision: (message: string) => Promise<number>
  resolve: (mine: boolean) => void
  retry: () => void
  solvedIn: number
  version: number
  reload: () => void
}

const Context = createContext<Workspace | null>(null)
export const useWorkspace = (): Workspace => {
  const workspace = use(Context)
  if (!workspace) throw new Error('no project is open')
  return workspace
}

export function WorkspaceProvider({
  project,
  reload,
  children,
}: {
  project: Project
  reload: () => void
  children: ReactNode
}) {
  const [start] = useState(() => kept(project.id, project.draft.version) ?? project.draft.design)
  const [design, setDesign] = useState<Design>(start)
  const [past, setPast] = useState<Step[]>([])
  const [future, setFuture] = useState<Step[]>([])
  const [sheet, setSheet] = useState<Sheet>()
  const [solving, setSolving] = useState(true)
  const [problem, setProblem] = useState('')
  const [corner, setCorner] = useState(2)
  const [changed, setChanged] = useState<Change[]>([])
  const [former, setFormer] = useState<Record<string, number | null>>({})
  const [lastEdit, setLastEdit] = useState('')
  const queue = useRef<Promise<unknown>>(Promise.resolve())
  const [save, setSave] = useState<SaveState>({ kind: 'saved' })
  const [solvedIn, setSolvedIn] = useState(0)
  const [version, setVersion] = useState(project.draft.version)
  const versionRef = useRef(project.draft.version)
  const latest = useRef<Sheet>(undefined)
  const stamp = useRef({ key: '', at: 0 })
  const saved = useRef(start === project.draft.design ? JSON.stringify(project.draft.design) : '')
  const sequence = useRef(0)

  const loads = design.loads.map((l) => l.place).join(',')
  const meta = useQuery({
    queryKey: ['lineup', design.lineup, loads],
    queryFn: () => call<LineUpMeta>(`lineups/${design.lineup}?loads=${loads}`),
    staleTime: Infinity,
    placeholderData: (old) => old,
  }).data

  useEffect(() => {
    const mine = ++sequence.current
    const stop = new AbortController()
    const began = performance.now()
    call<Sheet>('solve', { body: { design }, signal: stop.signal })
      .then((solved) => {
        if (mine !== sequence.current) return
        const before = latest.current
        if (before) {
          const found = changes(before, solved)
          setChanged(found.list)
          setFormer(found.former)
        }
        latest.current = solved
        setSheet(solved)
        setProblem('')
        setSolving(false)
        setSolvedIn(performance.now() - began)
      })
      .catch((error: unknown) => {
        if (mine !== sequence.current || (error instanceof DOMException && error.name === 'AbortError')) return
        setProblem(error instanceof Error ? error.message : String(error))
        setSolving(false)
      })
    return () => stop.abort()
  }, [design])

  // Writes go one after the other: a second one sent with the version of the first would look like somebody else's edit.
  const inTurn = useCallback(<T,>(work: () => Promise<T>): Promise<T> => {
    const turn = queue.current.then(work)
    queue.current = turn.catch(() => undefined)
    return turn
  }, [])

  const push = useCallback(
    (what: Design) =>
      inTurn(async () => {
        setSave({ kind: 'saving' })
        keep(project.id, versionRef.current, what)
        try {
          const answer = await call<{ version: number }>(`projects/${project.id}/draft`, {
            method: 'PUT',
            body: { version: versionRef.current, design: what },
          })
          versionRef.current = answer.version
          setVersion(answer.version)
          saved.current = JSON.stringify(what)
          forget(project.id)
          setSave({ kind: 'saved' })
        } catch (error) {
          if (error instanceof Refused && error.status === 409)
            setSave({ kind: 'conflict', theirs: error.body.theirs as { version: number; design: Design } })
          else setSave({ kind: 'away', message: error instanceof Error ? error.message : String(error) })
        }
      }),
    [project.id, inTurn],
  )

  useEffect(() => {
    if (save.kind === 'conflict' || JSON.stringify(design) === saved.current) return
    keep(project.id, versionRef.current, design)
    // While one write is under way the next waits: when it has ended, this runs again.
    if (save.kind === 'saving') return
    const timer = setTimeout(
      () => {
        if (JSON.stringify(design) !== saved.current) void push(design)
      },
      save.kind === 'away' ? 2000 : 350,
    )
    return () => clearTimeout(timer)
  }, [design, save, push, project.id])

  const apply = useCallback((next: Design, label: string) => {
    setDesign(next)
    setLastEdit(label)
    setSolving(true)
  }, [])

  const edit = useCallback(
    (label: string, change: (design: Design) => Design) => {
      const next = change(design)
      if (next === design || JSON.stringify(next) === JSON.stringify(design)) return
      const now = performance.now()
      const follows = stamp.current.key === label && now - stamp.current.at < 1500
      stamp.current = { key: label, at: now }
      if (!follows) setPast((p) => [...p.slice(-199), { design, label }])
      setFuture([])
      apply(next, label)
    },
    [design, apply],
  )

  const undo = useCallback(() => {
    const step = past.at(-1)
    if (!step) return
    stamp.current = { key: '', at: 0 }
    setPast(past.slice(0, -1))
    setFuture([{ design, label: step.label }, ...future])
    apply(step.design, `Undo: ${step.label}`)
  }, [past, future, design, apply])

  const redo = useCallback(() => {
    const step = future[0]
    if (!step) return
    setFuture(future.slice(1))
    setPast([...past, { design, label: step.label }])
    apply(step.design, `Redo: ${step.label}`)
  }, [past, future, design, apply])

  const saveRevision = useCallback(
    (message: string) =>
      inTurn(async () => {
        const answer = await call<{ number: number; version: number }>(`projects/${project.id}/revisions`, {
          body: { version: versionRef.current, design, message },
        })
        versionRef.current = answer.version
        setVersion(answer.version)
        saved.current = JSON.stringify(design)
        setSave({ kind: 'saved' })
        reload()
        return answer.number
      }),
    [project.id, design, reload, inTurn],
  )

  const resolve = useCallback(
    (mine: boolean) => {
      if (save.kind !== 'conflict') return
      versionRef.current = save.theirs.version
      setVersion(save.theirs.version)
      if (mine) {
        saved.current = ''
        setSave({ kind: 'saving' })
        void push(design)
      } else {
        saved.current = JSON.stringify(save.theirs.design)
        forget(project.id)
        setPast((p) => [...p, { design, label: 'Took the other side' }])
        setSave({ kind: 'saved' })
        apply(save.theirs.design, 'Took the other side')
      }
    },
    [save, design, push, apply, project.id],
  )

  const retry = useCallback(() => void push(design), [push, design])
  const dismiss = useCallback(() => {
    setChanged([])
    setFormer({})
  }, [])

  // "Saved" is said only of what the server has: between an edit and its write it is being saved.
  const shown = useMemo<SaveState>(
    () => (save.kind === 'saved' && JSON.stringify(design) !== saved.current ? { kind: 'saving' } : save),
    [save, design],
  )

  const value = useMemo<Workspace>(
    () => ({
      project,
      design,
      meta,
      sheet,
      solving,
      problem,
      corner,
      setCorner,
      edit,
      undo,
      redo,
      canUndo: past.length > 0,
      canRedo: future.length > 0,
      changed,
      former,
      lastEdit,
      dismiss,
      save: shown,
      saveRevision,
      resolve,
      retry,
      solvedIn,
      version,
      reload,
    }),
    [
      project,
      design,
      meta,
      sheet,
      solving,
      problem,
      corner,
      edit,
      undo,
      redo,
      past,
      future,
      changed,
      former,
      lastEdit,
      dismiss,
      shown,
      saveRevision,
      resolve,
      retry,
      solvedIn,
      version,
      reload,
    ],
  )
  return <Context value={value}>{children}</Context>
}
