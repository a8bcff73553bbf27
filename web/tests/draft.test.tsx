import { act, renderHook, waitFor } from '@testing-library/react'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import type { Design } from '../src/api'
import { useDraft } from '../src/state/draft'
import { useHistory } from '../src/state/history'
import { forget, keep, kept, same } from '../src/state/kept'
import { given } from '../src/state/moves'
import { sampleDesign, sampleProject } from './sample'

const typed = (watts: number) => given('load_1.rated_power', watts)(sampleDesign())

describe('what was typed and not yet saved', () => {
  const draft = { version: 5, design: sampleDesign() }
  test('goes on from the version it began from, and stands against any other', () => {
    keep(1, 5, typed(400))
    expect(kept(1, draft)).toEqual({ design: typed(400), follows: true })
    expect(kept(1, { ...draft, version: 6 })).toEqual({ design: typed(400), follows: false })
    expect(kept(2, draft)).toBeNull()
    forget(1)
    expect(kept(1, draft)).toBeNull()
  })
  test('goes on from what was under way when the page was closed', () => {
    keep(1, 5, typed(500), [typed(400)])
    expect(kept(1, { version: 6, design: typed(400) })).toEqual({ design: typed(500), follows: true })
    expect(kept(1, { version: 6, design: typed(900) })).toMatchObject({ follows: false })
  })
  test('is nothing where the server has it already', () => {
    keep(1, 5, typed(400))
    expect(kept(1, { version: 6, design: typed(400) })).toBeNull()
  })
  test('is the same whatever the order of its keys', () => {
    const { title, ...others } = sampleDesign()
    expect(same({ ...others, title }, sampleDesign())).toBe(true)
    expect(same(typed(1), typed(2))).toBe(false)
  })
  test('a broken or forbidden storage stops nothing', () => {
    localStorage.setItem('rhombos-draft-1', '{')
    expect(kept(1, draft)).toBeNull()
    const refuse = () => {
      throw new DOMException('no', 'QuotaExceededError')
    }
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(refuse)
    vi.spyOn(Storage.prototype, 'removeItem').mockImplementation(refuse)
    expect(() => keep(1, 1, sampleDesign())).not.toThrow()
    expect(() => forget(1)).not.toThrow()
  })
})

/** A server that keeps one draft; `fail` answers the next writes instead, after they were done or not. */
class Server {
  version = 3
  design: Design = sampleDesign()
  writes: Design[] = []
  fail: ('lost' | 'away')[] = []
  hold: Promise<void> | null = null

  constructor() {
    vi.stubGlobal('fetch', (_: string, init: RequestInit) => this.answer(JSON.parse(String(init.body))))
  }

  private async answer(body: { version: number; design: Design; message?: string }): Promise<Response> {
    await this.hold
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
  const open = (start = sampleDesign(), against = false) =>
    renderHook(() => {
      const history = useHistory(start)
      return { ...history, ...useDraft(sampleProject(), history, against, reload) }
    }).result
  type Opened = ReturnType<typeof open>
  const type = (w: Opened, watts: number) =>
    act(() => w.current.edit(`Watts ${watts}`, given('load_1.rated_power', watts)))
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
    expect(localStorage.length).toBe(0)
  })
  test('a write that is slower than the typing is no conflict with oneself', async () => {
    let release = () => {}
    server.hold = new Promise((resolve) => (release = resolve))
    const w = open()
    type(w, 400)
    await new Promise((resolve) => setTimeout(resolve, 450))
    type(w, 500)
    expect(kept(7, { version: 4, design: typed(400) })).toEqual({ design: typed(500), follows: true })
    release()
    await until(w, 'saved')
    expect(server.writes).toEqual([typed(400), typed(500)])
  })
  test('a server that is away is told, and the design saved when it is back', async () => {
    server.fail = ['away']
    const w = open()
    type(w, 400)
    await until(w, 'away')
    expect(kept(7, { version: 3, design: sampleDesign() })).toEqual({ design: typed(400), follows: true })
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
  test('what was kept against a newer draft begins as a conflict', () => {
    const w = open(typed(400), true)
    expect(w.current.save).toMatchObject({ kind: 'conflict', theirs: { version: 3 } })
    expect(server.writes).toEqual([])
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
