/** The draft of an open project: the keeper with the server, the query cache, other windows and the history around it. */
import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import { call, type Project } from '../../api'
import type { History } from '../history'
import { Keeper, type SaveState } from './keeper'
import { Store } from '../store'
import { shelfOf, type Kept, type Stored } from './kept'
import type { Field } from './merge'

export interface OpenProject {
  project: Project
  /** Asks the server for it again. */
  reload: () => void
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

/** How the keeper stands, kept beside what is drawn: a save draws anew only what tells of it. */
export function useDraft(
  project: Project,
  start: Kept,
  { design, edit, bring }: Edited,
  reload: () => void,
): Store<OpenProject> {
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
  const [store] = useState(
    () =>
      new Store<OpenProject>({
        ...{ project, reload, ...stand(keeper) },
        saveRevision: async (message) => {
          const number = await keeper.saveRevision(message)
          store.get().reload()
          return number
        },
        resolve: (here) => keeper.resolve(here),
        retry: () => keeper.retry(),
        told: () => keeper.told(),
      }),
  )
  useLayoutEffect(() => {
    const follow = () => store.set({ ...store.get(), ...stand(keeper) })
    follow()
    return keeper.subscribe(follow)
  }, [store, keeper])
  useLayoutEffect(() => store.set({ ...store.get(), project, reload }), [store, project, reload])

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

  return store
}

const stand = (keeper: Keeper) => ({ save: keeper.state, version: keeper.base.version, news: keeper.news })

/** Writes of one project go one after the other: a second one sent with the version of the first would look like somebody else's edit. */
function inTurn(client: QueryClient, id: string): <T>(work: () => Promise<T>) => Promise<T> {
  return <T>(work: () => Promise<T>) =>
    client
      .getMutationCache()
      .build<T, Error, void, unknown>(client, { mutationFn: work, scope: { id }, networkMode: 'always', gcTime: 0 })
      .execute(undefined)
}
