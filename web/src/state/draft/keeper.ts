/** Who keeps a project's draft: one state machine over edits, writes, outages, refusals and what others wrote. */
import { Refused, type Design } from '../../api'
import type { Kept, Shelf, Stored } from './kept'
import { merge, same, type Field } from './merge'

export const PAUSE = 350
export const RETRY = 2000
const MOST_UNHEARD = 10

export type SaveState =
  | { kind: 'saved' }
  | { kind: 'saving' }
  /** The server does not answer: what is typed is kept here and written when it is back. */
  | { kind: 'away'; message: string }
  /** The server answered that it will not have this design: sent again only when it has changed. */
  | { kind: 'refused'; message: string }
  /** Both sides changed the same fields. */
  | { kind: 'conflict'; theirs: Stored; both: Field[] }

/** What the keeper acts on. Writes come one after the other; they read what to write when their turn comes. */
export interface Around {
  write: (what: () => Stored) => Promise<{ version: number }>
  revise: (what: () => Stored, message: string) => Promise<{ version: number; number: number }>
  /** Puts a design into the history as one step. */
  apply: (label: string, design: Design) => void
  /** Lets what others edited into the design and into every step of the history, so that undo takes back one's own edits only. */
  bring: (into: (design: Design) => Design) => void
  /** Tells the rest of the page, and other windows, what the server has now. */
  announce: (stored: Stored) => void
  shelf: Shelf
}

export class Keeper {
  state: SaveState = { kind: 'saved' }
  base: Stored
  /** Fields that came in from elsewhere and have not been told yet. */
  news: Field[] = []
  private design: Design
  private unheard: Design[]
  private sending = false
  private refused: Design | null = null
  private timer: ReturnType<typeof setTimeout> | undefined
  private readonly heard = new Set<() => void>()

  constructor(
    start: Kept,
    private readonly around: Around,
  ) {
    this.base = start.base
    this.design = start.design
    this.unheard = start.unheard
  }

  subscribe = (listener: () => void): (() => void) => {
    this.heard.add(listener)
    return () => this.heard.delete(listener)
  }

  /** The design as it is edited here. */
  follow(design: Design): void {
    if (design === this.design) return
    this.design = design
    // What is asked about follows what is typed meanwhile.
    if (this.state.kind === 'conflict') this.weigh(this.state.theirs)
    else this.arrange()
  }

  /** What the server has, from another window or on opening. */
  received(theirs: Stored): void {
    if (theirs.version <= this.base.version) return
    if (this.unheard.some((d) => same(d, theirs.design))) {
      // One's own write, whose answer was never heard.
      this.adopt(theirs)
      return
    }
    this.weigh(theirs)
  }

  private weigh(theirs: Stored): void {
    const merged = merge(this.base.design, this.design, theirs.design)
    if (merged.both.length > 0) {
      this.say({ kind: 'conflict', theirs, both: merged.both })
      this.arrange()
      return
    }
    const before = this.base.design
    if (merged.cameIn.length > 0) this.around.bring((design) => merge(before, design, theirs.design).here)
    this.design = merged.here
    this.adopt(theirs, merged.cameIn)
  }

  /** Ends a conflict; the side that is not taken stands one step back. */
  resolve(keepHere: boolean): void {
    if (this.state.kind !== 'conflict') return
    const { theirs } = this.state
    const merged = merge(this.base.design, this.design, theirs.design)
    this.adopt(theirs, merged.cameIn)
    if (keepHere) this.put('The other side', merged.there)
    this.put(keepHere ? 'Kept what is here' : 'Took the other side', keepHere ? merged.here : merged.there)
  }

  retry(): void {
    if (this.state.kind === 'refused') this.refused = null
    this.arrange(0)
  }

  told(): void {
    this.news = []
    this.emit()
  }

  async saveRevision(message: string): Promise<number> {
    if (this.state.kind === 'conflict') throw new Error('There are two sides of this project: choose one first.')
    let what = this.design
    try {
      const read = () => ({ version: this.base.version, design: (what = this.design) })
      const answer = await this.around.revise(read, message)
      this.adopt({ version: answer.version, design: what })
      return answer.number
    } catch (error) {
      const theirs = theirsOf(error)
      if (theirs) this.received(theirs)
      throw error
    }
  }

  /** Nobody looks any more: what is not saved stays on the shelf. */
  stop(): void {
    clearTimeout(this.timer)
  }

  /** Begins, or goes on after `stop`. */
  start(): void {
    this.arrange()
  }

  /** Says how it stands, keeps what is not saved, and sends it when it is time. */
  private arrange(wait?: number): void {
    clearTimeout(this.timer)
    if (same(this.design, this.base.design) && !this.sending && this.state.kind !== 'conflict') {
      this.unheard = []
      this.around.shelf.forget()
      this.say({ kind: 'saved' })
      return
    }
    this.around.shelf.keep({ base: this.base, design: this.design, unheard: this.unheard })
    if (this.state.kind === 'conflict' || this.sending) return
    if (this.refused && same(this.refused, this.design)) return
    this.refused = null
    const away = this.state.kind === 'away'
    if (!away) this.say({ kind: 'saving' })
    this.timer = setTimeout(() => void this.send(), wait ?? (away ? RETRY : PAUSE))
  }

  private async send(): Promise<void> {
    let what = this.design
    this.sending = true
    const read = () => {
      what = this.design
      if (this.unheard.length < MOST_UNHEARD && !this.unheard.includes(what)) this.unheard = [...this.unheard, what]
      this.around.shelf.keep({ base: this.base, design: what, unheard: this.unheard })
      return { version: this.base.version, design: what }
    }
    try {
      const { version } = await this.around.write(read)
      this.sending = false
      // Another window may have gone on from it, and been heard of, before this answer came.
      if (version > this.base.version) this.adopt({ version, design: what })
      else this.arrange()
    } catch (error) {
      this.sending = false
      this.failed(error, what)
    }
  }

  private failed(error: unknown, what: Design): void {
    const theirs = theirsOf(error)
    const message = error instanceof Error ? error.message : String(error)
    const answered = error instanceof Refused && error.status >= 400 && error.status < 500
    if (theirs) {
      this.received(theirs)
      this.arrange()
      return
    }
    if (answered) {
      this.refused = what
      this.unheard = this.unheard.filter((d) => d !== what)
      this.say({ kind: 'refused', message })
    } else this.say({ kind: 'away', message })
    this.arrange()
  }

  /** The server's draft is this now. */
  private adopt(stored: Stored, cameIn: Field[] = []): void {
    this.base = stored
    this.unheard = []
    if (cameIn.length > 0) this.news = [...new Set([...this.news, ...cameIn])]
    this.around.announce(stored)
    this.state = { kind: 'saving' }
    this.arrange()
    this.emit()
  }

  private put(label: string, design: Design): void {
    if (!same(design, this.design)) this.around.apply(label, design)
    this.follow(design)
  }

  private say(state: SaveState): void {
    if (state.kind === this.state.kind && JSON.stringify(state) === JSON.stringify(this.state)) return
    this.state = state
    this.emit()
  }

  private emit(): void {
    for (const listener of this.heard) listener()
  }
}

function theirsOf(error: unknown): Stored | null {
  return error instanceof Refused && error.status === 409 ? (error.body.theirs as Stored) : null
}
