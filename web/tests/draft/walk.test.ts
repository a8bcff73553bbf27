/** A random walk of edits in two windows, outages, lost answers, reloads and revisions: nothing typed and nothing acknowledged is lost. */
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { Refused, type Design } from '../../src/api'
import { Keeper } from '../../src/state/draft/keeper'
import { begin, type Kept, type Stored } from '../../src/state/draft/kept'
import { same } from '../../src/state/draft/merge'
import { given } from '../../src/state/moves'
import { sampleDesign } from '../sample'

const FIELDS = ['battery.cells', 'input.cable_length', 'load_1.rated_power', 'bridge.dead_time']

/** The server: every draft it ever acknowledged, whether it answers, and whether the next answer is lost on the way. */
class Server {
  log: Design[] = [sampleDesign()]
  up = true
  lose = false
  get stored(): Stored {
    return { version: this.log.length, design: this.log.at(-1)! }
  }
  write(what: Stored): number {
    if (!this.up) throw new Refused(0, 'away', 'no answer', {})
    if (what.version !== this.stored.version) throw new Refused(409, 'conflict', 'edited', { theirs: this.stored })
    this.log.push(what.design)
    if (this.lose) {
      this.lose = false
      throw new Refused(0, 'away', 'the answer was lost', {})
    }
    return this.stored.version
  }
}

class Window {
  keeper: Keeper | null = null
  design: Design = sampleDesign()
  past: Design[] = []
  kept: Kept | null = null
  constructor(
    readonly server: Server,
    readonly others: () => Window[],
    readonly random: () => number,
    readonly book: Book,
  ) {}

  /** Loads the page: with what was kept, against what the server has. */
  open(): void {
    if (!this.server.up) return
    const start = begin(this.server.stored, this.kept)
    this.design = start.design
    this.past = []
    const slow = async () => {
      await new Promise((resolve) => setTimeout(resolve, 5 + 600 * this.random()))
    }
    this.keeper = new Keeper(start, {
      write: async (what) => {
        const sent = what()
        await slow()
        const version = this.server.write(sent)
        await slow()
        return { version }
      },
      revise: async (what) => {
        const sent = what()
        await slow()
        return { version: this.server.write(sent), number: 1 }
      },
      apply: (_, design) => {
        this.past.push(this.design)
        this.design = design
      },
      bring: (into) => {
        this.past = this.past.map(into)
        this.design = into(this.design)
      },
      announce: (stored) => {
        for (const other of this.others()) setTimeout(() => other.keeper?.received(stored), 3)
      },
      shelf: { keep: (what) => (this.kept = structuredClone(what)), forget: () => (this.kept = null) },
    })
    this.keeper.start()
    this.keeper.received(this.server.stored)
  }
  close(): void {
    this.keeper?.stop()
    this.keeper = null
  }
  type(field: string, value: number): void {
    this.past.push(this.design)
    this.design = given(field, value)(this.design)
    this.book.typed(field, value, this)
    this.keeper!.follow(this.design)
  }
  undo(): void {
    const before = this.past.pop()
    if (!before) return
    this.book.free(FIELDS.filter((f) => before.givens[f] !== this.design.givens[f]))
    this.design = before
    this.keeper!.follow(before)
  }
  /** Chooses a side; what is not taken must stand one step back. */
  choose(here: boolean): void {
    const { state } = this.keeper!
    if (state.kind !== 'conflict') return
    const fields = state.both.map((f) => f.replace('givens.', ''))
    const loser = here ? state.theirs.design : this.design
    this.book.free(fields)
    this.keeper!.resolve(here)
    expect(
      this.past.some((d) => fields.every((f) => d.givens[f] === loser.givens[f])),
      'the other side is one step back',
    ).toBe(true)
  }
}

/** Who typed what. Values only grow, so that the newest of a field is the highest. */
class Book {
  newest = new Map<string, number>()
  writer = new Map<number, Window>()
  typed(field: string, value: number, by: Window): void {
    this.newest.set(field, value)
    this.writer.set(value, by)
  }
  /** Somebody decided: an older value may stand. */
  free(fields: string[]): void {
    for (const f of fields) this.newest.delete(f)
  }
}

/** What must be so at every moment: "saved" is said only of what the server acknowledged. */
function sound(server: Server, w: Window): void {
  if (!w.keeper) return
  const { base, state } = w.keeper
  expect(same(server.log[base.version - 1]!, base.design), 'what it goes on from is what the server has').toBe(true)
  if (state.kind === 'saved') expect(same(w.design, base.design), 'saved means saved').toBe(true)
  else if (!same(w.design, base.design))
    expect(w.kept && same(w.kept.design, w.design), 'else it is kept here').toBe(true)
}

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

test.each([1, 2, 3, 4, 5])(
  'walk %i of 500 steps',
  async (seed) => {
    let state = seed
    // Mulberry32: the same walk on every machine.
    const random = () => {
      state = (state + 0x6d2b79f5) | 0
      let t = Math.imul(state ^ (state >>> 15), 1 | state)
      t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
      return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32
    }
    const server = new Server()
    const book = new Book()
    const windows: Window[] = []
    for (let k = 0; k < 2; k++)
      windows.push(new Window(server, () => windows.filter((o) => o !== windows[k]), random, book))
    for (const w of windows) w.open()
    let value = 1000
    for (let step = 0; step < 500; step++) {
      const w = windows[random() < 0.5 ? 0 : 1]!
      const act = random()
      if (!w.keeper) w.open()
      else if (act < 0.45) w.type(FIELDS[Math.floor(4 * random())]!, ++value)
      else if (act < 0.5) w.undo()
      else if (act < 0.55) server.up = !server.up
      else if (act < 0.6) server.lose = true
      else if (act < 0.65) w.close()
      else if (act < 0.75 && w.keeper.state.kind === 'conflict') w.choose(random() < 0.5)
      else if (act < 0.78) w.keeper.saveRevision('as built').catch(() => undefined)
      await vi.advanceTimersByTimeAsync(900 * random())
      for (const each of windows) sound(server, each)
      if (step % 50 === 49) await settle(server, windows, random, book)
    }
  },
  60_000,
)

/** Everybody is back and has time: both windows show what the server has, and what was typed last in every field stands. */
async function settle(server: Server, windows: Window[], random: () => number, book: Book): Promise<void> {
  server.up = true
  server.lose = false
  for (let k = 0; k < 12; k++) {
    for (const w of windows) {
      if (!w.keeper) w.open()
      w.choose(random() < 0.5)
      if (w.keeper!.state.kind === 'away') w.keeper!.retry()
    }
    await vi.advanceTimersByTimeAsync(5000)
  }
  for (const w of windows) {
    expect(w.keeper!.state.kind).toBe('saved')
    expect(same(w.design, server.stored.design), 'both show what the server has').toBe(true)
  }
  for (const [field, value] of book.newest)
    expect(server.stored.design.givens[field], `${field} was typed last as ${value}`).toBe(value)
}
