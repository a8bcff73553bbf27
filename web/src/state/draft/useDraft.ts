/** The draft of an open project: the keeper with the server, the query cache, other windows and the history around it. */
import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import { call, type Project } from '../../api'
import type { History } from '../history'
import { Keeper, type SaveState } from './keeper'
import { shelfOf, type Kept, type Stored } from './kept'
import type { Field } from './merge'

export interface Draft {
  save: SaveState
  version: number
  saveRevision: (message: string) => Promise<number>
  /** Ends a conflict: with what is here, or with what is there. */
  resolve: (here: boolean) => void
  retry: () => void
  /** Fields that came in from elsewhere. */
  news: Field[]
  told: () => void
}

type Edited = Pick<History, 'design' | 'edit' | 'bring'>

export function useDraft(project: Project, start: Kept, { design, edit, bring }: Edited, reload: () => void): Draft {
  const client = useQueryClient()
  const { id, created } = project
  const windows = useRef<BroadcastChannel>(undefined)
  const [keeper] = useState(() => {
    const turn = inTurn(client, `draft-${id}`)
    return new Keeper(start, {
      write: (what) =>
        turn(() => {
          const { version, design } = what()
          return call<{ version: number }>(`projects/${id}/draft`, { method: 'PUT', body: { version, design } })
        }),
      revise: (what, message) =>
        turn(() => {
          const body = { ...what(), message }
          return call<{ number: number; version: number }>(`projects/${id}/revisions`, { body })
        }),
      apply: (label, design) => edit(label, () => design),
      bring,
      announce: (stored) => {
        client.setQueryData<Project>(['project', String(id)], (p) => p && { ...p, draft: { ...p.draft, ...stored } })
        windows.current?.postMessage(stored)
      },
      shelf: shelfOf(id, created),
    })
  })
  const save = useSyncExternalStore(keeper.subscribe, () => keeper.state)
  const version = useSyncExternalStore(keeper.subscribe, () => keeper.base.version)
  const news = useSyncExternalStore(keeper.subscribe, () => keeper.news)

  useEffect(() => {
    keeper.start()
    const channel =
      typeof BroadcastChannel === 'undefined' ? undefined : new BroadcastChannel(`rhombos-project-${id}-${created}`)
    channel?.addEventListener('message', (e: MessageEvent<Stored>) => keeper.received(e.data))
    windows.current = channel
    return () => {
      keeper.stop()
      channel?.close()
    }
  }, [keeper, id, created])
  useEffect(() => keeper.follow(design), [keeper, design])
  // What the server had on opening, and has whenever the project is asked for again.
  const { version: stands, design: theirs } = project.draft
  useEffect(() => keeper.received({ version: stands, design: theirs }), [keeper, stands, theirs])

  const saveRevision = useCallback(
    async (message: string) => {
      const number = await keeper.saveRevision(message)
      reload()
      return number
    },
    [keeper, reload],
  )
  return useMemo(
    () => ({
      ...{ save, version, news, saveRevision },
      resolve: (here: boolean) => keeper.resolve(here),
      retry: () => keeper.retry(),
      told: () => keeper.told(),
    }),
    [save, version, news, saveRevision, keeper],
  )
}

/** Writes of one project go one after the other: a second one sent with the version of the first would look like somebody else's edit. */
function inTurn(client: QueryClient, id: string): <T>(work: () => Promise<T>) => Promise<T> {
  return <T>(work: () => Promise<T>) =>
    client
      .getMutationCache()
      .build<T, Error, void, unknown>(client, { mutationFn: work, scope: { id }, networkMode: 'always', gcTime: 0 })
      .execute(undefined)
}
