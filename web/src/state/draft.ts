/** Autosave: the draft on the server follows the design, one write after the other; conflicts and losses are told. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { call, Refused, type Design, type Project } from '../api'
import { forget, keep, same } from './kept'
import type { Move } from './moves'

const PAUSE = 350
const RETRY = 2000
const MOST_UNHEARD = 10

interface Stored {
  version: number
  design: Design
}
export type SaveState =
  { kind: 'saved' } | { kind: 'saving' } | { kind: 'away'; message: string } | { kind: 'conflict'; theirs: Stored }

export interface Draft {
  save: SaveState
  version: number
  saveRevision: (message: string) => Promise<number>
  /** Ends a conflict: with what is here, or with what is there. */
  resolve: (mine: boolean) => void
  retry: () => void
}

interface Edited {
  design: Design
  edit: (label: string, move: Move) => void
}

/** `against`: the design was kept from before somebody else's edit, so that the person has to choose a side first. */
export function useDraft(project: Project, { design, edit }: Edited, against: boolean, reload: () => void): Draft {
  const [save, setSave] = useState<SaveState>(() =>
    against ? { kind: 'conflict', theirs: project.draft } : { kind: 'saved' },
  )
  const [version, setVersion] = useState(project.draft.version)
  const versionRef = useRef(project.draft.version)
  const [saved, setSaved] = useState(() => JSON.stringify(project.draft.design))
  // What was written and not acknowledged since: any of it may have arrived all the same.
  const unheard = useRef<Design[]>([])
  const inTurn = useTurns()

  const acknowledged = useCallback((version: number, what: Design) => {
    versionRef.current = version
    setVersion(version)
    unheard.current = []
    setSaved(JSON.stringify(what))
    setSave({ kind: 'saved' })
  }, [])

  const push = useCallback(
    (what: Design) =>
      inTurn(async () => {
        setSave({ kind: 'saving' })
        if (unheard.current.length < MOST_UNHEARD && !unheard.current.includes(what)) unheard.current.push(what)
        keep(project.id, versionRef.current, what, unheard.current)
        try {
          acknowledged(await put(project.id, versionRef.current, what, unheard.current), what)
        } catch (error) {
          if (error instanceof Refused && error.status === 409)
            setSave({ kind: 'conflict', theirs: error.body.theirs as Stored })
          else setSave({ kind: 'away', message: error instanceof Error ? error.message : String(error) })
        }
      }),
    [project.id, inTurn, acknowledged],
  )

  useEffect(() => {
    if (save.kind === 'conflict') return
    if (JSON.stringify(design) === saved) return forget(project.id)
    keep(project.id, versionRef.current, design, unheard.current)
    // While one write is under way the next waits: when it has ended, this runs again.
    if (save.kind === 'saving') return
    const timer = setTimeout(() => void push(design), save.kind === 'away' ? RETRY : PAUSE)
    return () => clearTimeout(timer)
  }, [design, save, saved, push, project.id])

  const saveRevision = useCallback(
    (message: string) =>
      inTurn(async () => {
        const body = { version: versionRef.current, design, message }
        const answer = await call<{ number: number; version: number }>(`projects/${project.id}/revisions`, { body })
        acknowledged(answer.version, design)
        reload()
        return answer.number
      }),
    [project.id, design, reload, inTurn, acknowledged],
  )

  const resolve = useCallback(
    (mine: boolean) => {
      if (save.kind !== 'conflict') return
      versionRef.current = save.theirs.version
      setVersion(save.theirs.version)
      if (mine) void push(design)
      else {
        acknowledged(save.theirs.version, save.theirs.design)
        const theirs = save.theirs.design
        edit('Took the other side', () => theirs)
      }
    },
    [save, design, push, edit, acknowledged],
  )

  const retry = useCallback(() => void push(design), [push, design])

  // "Saved" is said only of what the server has: between an edit and its write it is being saved.
  const shown = useMemo<SaveState>(
    () => (save.kind === 'saved' && JSON.stringify(design) !== saved ? { kind: 'saving' } : save),
    [save, design, saved],
  )
  return { save: shown, version, saveRevision, resolve, retry }
}

/** Writes a draft and gives its new version. A conflict with one's own write, whose answer was never heard, is none. */
async function put(project: number, version: number, what: Design, unheard: Design[]): Promise<number> {
  const write = async (version: number) => {
    const body = { version, design: what }
    return (await call<{ version: number }>(`projects/${project}/draft`, { method: 'PUT', body })).version
  }
  try {
    return await write(version)
  } catch (error) {
    const theirs = error instanceof Refused && error.status === 409 ? (error.body.theirs as Stored) : null
    if (theirs && unheard.some((d) => same(d, theirs.design))) return await write(theirs.version)
    throw error
  }
}

/** Writes go one after the other: a second one sent with the version of the first would look like somebody else's edit. */
function useTurns(): <T>(work: () => Promise<T>) => Promise<T> {
  const queue = useRef<Promise<unknown>>(Promise.resolve())
  return useCallback(<T>(work: () => Promise<T>): Promise<T> => {
    const turn = queue.current.then(work)
    queue.current = turn.catch(() => undefined)
    return turn
  }, [])
}
