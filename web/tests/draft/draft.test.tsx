import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import type { Design, Project } from '../../src/api'
import { begin, shelfOf } from '../../src/state/draft/kept'
import { useDraft } from '../../src/state/draft/useDraft'
import { useParts } from '../../src/state/store'
import { useHistory } from '../../src/state/history'
import { given } from '../../src/state/moves'
import { sampleDesign, sampleProject } from '../sample'

const typed = (watts: number) => given('load_1.rated_power', watts)(sampleDesign())
const base = { version: 5, design: sampleDesign() }

describe('what was typed and not yet saved', () => {
  test('goes on from the version it began from, and stands against any other', () => {
    const kept = { base, design: typed(400), unheard: [] }
    expect(begin(base, kept)).toEqual({ base, design: typed(400), unheard: [] })
    expect(begin({ version: 6, design: typed(900) }, kept)).toEqual(kept)
    expect(begin(base, null)).toEqual({ base, design: base.design, unheard: [] })
  })
  test('goes on from what was under way when the page was closed', () => {
    const kept = { base, design: typed(500), unheard: [typed(400)] }
    const arrived = { version: 6, design: typed(400) }
    expect(begin(arrived, kept)).toEqual({ base: arrived, design: typed(500), unheard: [] })
  })
  test('is nothing where the server has it already', () => {
    const there = { version: 6, design: typed(400) }
    expect(begin(there, { base, design: typed(400), unheard: [] }).base).toEqual(there)
  })
  test('is found again by this window at once, by another when its own is gone, and not for another project', () => {
    const kept = { base, design: typed(400), unheard: [] }
    shelfOf(1, 'a').keep(kept)
    expect(shelfOf(1, 'b').found()).toBeNull()
    const own = sessionStorage.getItem('rhombos-window')!
    sessionStorage.setItem('rhombos-window', 'another')
    expect(shelfOf(1, 'a').found()).toBeNull()
    vi.setSystemTime(Date.now() + 60_000)
    expect(shelfOf(1, 'a').found()).toMatchObject(kept)
    vi.useRealTimers()
    expect(shelfOf(1, 'a').found()).toBeNull()
    sessionStorage.setItem('rhombos-window', own)
  })
  test('a broken or forbidden storage stops nothing', () => {
    const shelf = shelfOf(1, 'a')
    shelf.keep({ base, design: typed(400), unheard: [] })
    localStorage.setItem(
      Object.keys(localStorage).find((n) => n.startsWith('rhombos-draft-1-a'))!,
      '{',
    )
    expect(shelf.found()).toBeNull()
    const refuse = () => {
      throw new DOMException('no', 'QuotaExceededError')
    }
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(refuse)
    vi.spyOn(Storage.prototype, 'removeItem').mockImplementation(refuse)
    expect(() => shelf.keep({ base, design: typed(400), unheard: [] })).not.toThrow()
    expect(() => shelf.forget()).not.toThrow()
  })
})

/** A server that keeps one draft; `fail` answers the next writes instead, after they were done or not. */
class Server {
  version = 3
  design: Design = sampleDesign()
  writes: Design[] = []
  fail: ('lost' | 'away')[] = []
  refuse = false
  asked = 0
  hold: Promise<void> | null = null

  constructor() {
    vi.stubGlobal('fetch', (_: string, init: RequestInit) => this.answer(JSON.parse(String(init.body))))
  }

  private async answer(body: { version: number; design: Design; message?: string }): Promise<Response> {
    await this.hold
    this.asked += 1
    if (this.refuse) return new Response(JSON.stringify({ error: 'invalid', message: 'too long' }), { status: 422 })
    const way = this.fail.shift()
    if (way === 'away') throw new TypeError('Failed to fetch')
    if (body.version !== this.version) {
      const theirs = { version: this.version, design: this.design }
      return new Response(JSON.stringify({ error: 'conflict', message: 'edited elsewhere', theirs }), { status: 409 })
    }
    this.version += 1
    this.design = body.design
    this.writes.push(body.design)
    if (way === 'lost') throw new TypeError('Failed to fetch')
    return new Response(JSON.stringify({ version: this.version, number: 2 }))
  }
}

describe('autosave', () => {
  let server: Server
  beforeEach(() => {
    server = new Server()
  })
  const reload = vi.fn()
  const open = (design = sampleDesign()) => {
    const client = new QueryClient()
    client.setQueryData(['project', '7'], sampleProject())
    const wrapper = ({ children }: { children: ReactNode }) => (
      <QueryClientProvider client={client}>{children}</QueryClientProvider>
    )
    const project = sampleProject()
    const start = { base: { version: 3, design: sampleDesign() }, design, unheard: [] }
    const { result } = renderHook(
      () => {
        const history = useHistory(start.design)
        const draft = useDraft(project, start, history, reload)
        const names = ['save', 'version', 'news', 'saveRevision', 'resolve', 'retry', 'told'] as const
        return { ...history, ...useParts(draft, names), client }
      },
      { wrapper },
    )
    return result
  }
  type Opened = ReturnType<typeof open>
  const type = (w: Opened, watts: number) =>
    act(() => w.current.edit(`Watts ${watts}`, given('load_1.rated_power', watts)))
  const shelf = () => shelfOf(7, sampleProject().created)
  const until = (w: Opened, kind: string) =>
    waitFor(() => expect(w.current.save.kind).toBe(kind), { timeout: 5000, interval: 20 })

  test('says saved only of what the server has', async () => {
    const w = open()
    expect(w.current.save.kind).toBe('saved')
    type(w, 400)
    expect(w.current.save.kind).toBe('saving')
    expect(server.writes).toEqual([])
    await until(w, 'saved')
    expect(server.design).toEqual(typed(400))
    expect(w.current.version).toBe(4)
  })
  test('writes once after a pause in typing, and leaves nothing behind in the browser', async () => {
    const w = open()
    for (const watts of [4, 40, 400]) type(w, watts)
    await until(w, 'saved')
    expect(server.writes).toEqual([typed(400)])
    expect(shelf().found()).toBeNull()
  })
  test('a write that is slower than the typing is no conflict with oneself', async () => {
    let release = () => {}
    server.hold = new Promise((resolve) => (release = resolve))
    const w = open()
    type(w, 400)
    await new Promise((resolve) => setTimeout(resolve, 450))
    type(w, 500)
    expect(begin({ version: 4, design: typed(400) }, shelf().found()).design).toEqual(typed(500))
    release()
    await until(w, 'saved')
    expect(server.writes).toEqual([typed(400), typed(500)])
  })
  test('a server that is away is told, and the design saved when it is back', async () => {
    server.fail = ['away']
    const w = open()
    type(w, 400)
    await until(w, 'away')
    expect(shelf().found()?.design).toEqual(typed(400))
    act(() => w.current.retry())
    await until(w, 'saved')
    expect(server.design).toEqual(typed(400))
  })
  test('a write whose answer was lost is no conflict, nor is what was typed after it lost', async () => {
    server.fail = ['lost']
    const w = open()
    type(w, 400)
    await until(w, 'away')
    expect(server.version).toBe(4)
    type(w, 500)
    act(() => w.current.retry())
    await until(w, 'saved')
    expect(server.design).toEqual(typed(500))
  })
  test("somebody else's edit is a conflict, and nothing is written before a side is chosen", async () => {
    const w = open()
    Object.assign(server, { version: 4, design: typed(77) })
    type(w, 400)
    await until(w, 'conflict')
    type(w, 410)
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect(server.writes).toEqual([])
    act(() => w.current.resolve(true))
    await until(w, 'saved')
    expect(server.design).toEqual(typed(410))
  })
  test('the other side can be taken, and undo brings back what was here', async () => {
    const w = open()
    Object.assign(server, { version: 4, design: typed(77) })
    type(w, 400)
    await until(w, 'conflict')
    act(() => w.current.resolve(false))
    expect(w.current.design).toEqual(typed(77))
    expect(w.current.save.kind).toBe('saved')
    act(() => w.current.undo())
    await until(w, 'saved')
    expect(server.design).toEqual(typed(400))
  })
  test("somebody else's edit of another field comes in without a question, and is told", async () => {
    const w = open()
    Object.assign(server, { version: 4, design: given('battery.cells', 7)(sampleDesign()) })
    type(w, 400)
    await until(w, 'saved')
    expect(server.design).toEqual(given('battery.cells', 7)(typed(400)))
    expect(w.current.design).toEqual(server.design)
    expect(w.current.news).toEqual(['givens.battery.cells'])
    act(() => w.current.told())
    expect(w.current.news).toEqual([])
  })
  test('keeping what is here leaves the other side one step back', async () => {
    const w = open()
    Object.assign(server, { version: 4, design: typed(77) })
    type(w, 400)
    await until(w, 'conflict')
    act(() => w.current.resolve(true))
    await until(w, 'saved')
    expect(server.design).toEqual(typed(400))
    act(() => w.current.undo())
    expect(w.current.design).toEqual(typed(77))
  })
  test('a design that the server refuses is no outage: it is sent again only when it has changed', async () => {
    const w = open()
    server.refuse = true
    type(w, 400)
    await until(w, 'refused')
    const asked = server.asked
    await new Promise((resolve) => setTimeout(resolve, 2300))
    expect(server.asked).toBe(asked)
    act(() => w.current.undo())
    expect(w.current.save.kind).toBe('saved')
    server.refuse = false
    type(w, 410)
    await until(w, 'saved')
    expect(server.design).toEqual(typed(410))
  })
  test('what the page remembers of the project is what the server has', async () => {
    const w = open()
    type(w, 400)
    await until(w, 'saved')
    expect(w.current.client.getQueryData<Project>(['project', '7'])?.draft).toMatchObject({
      version: 4,
      design: typed(400),
    })
  })
  test('a revision takes its turn with the drafts and carries the newest version', async () => {
    const w = open()
    type(w, 400)
    await act(async () => {
      expect(await w.current.saveRevision('as built')).toBe(2)
    })
    expect(w.current.save.kind).toBe('saved')
    expect([server.version, server.design]).toEqual([4, typed(400)])
    expect(reload).toHaveBeenCalled()
  })
})
