/** The sheet of the design as it stands; an answer that came too late for its question is dropped. */
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { call, Refused, type Design, type LineUp, type Sheet } from '../api'
import { lineUpFor } from '../api/lineups'
import type { Columns } from '../api/schema'
import { sheetOf } from '../api/sheet'
import { changes, type Change } from './changes'

export interface Solving {
  meta: LineUp | undefined
  /** The sheet of the last design that could be solved; it is always one of `meta`. */
  sheet: Sheet | undefined
  /** The design that the sheet is of. */
  solved: Design | undefined
  /** Whether the sheet lags behind the design. */
  solving: boolean
  /** Why the design as it stands cannot be solved; the sheet is then the last one that could. */
  problem: string
  /** The problem is that nobody answers; it is asked again until somebody does. */
  away: boolean
  solvedIn: number
  changed: Change[]
  former: Record<string, number | null>
  dismiss: () => void
}

interface Answer {
  of: Design
  meta: LineUp | undefined
  sheet: Sheet | undefined
  solved: Design | undefined
  problem: string
  away: boolean
  changed: Change[]
  former: Record<string, number | null>
  solvedIn: number
}
const AGAIN = 2000
const NONE = { meta: undefined, sheet: undefined, solved: undefined, changed: [], former: {}, solvedIn: 0 }

/** `place` is the place that is open: its words come along with the numbers. */
export function useSolving(design: Design, place: string | null): Solving {
  const client = useQueryClient()
  const [answer, setAnswer] = useState<Answer>()
  const [asked, setAsked] = useState(0)
  const latest = useRef<{ of: Design; sheet: Sheet; id: string }>(undefined)

  useEffect(() => {
    const stop = new AbortController()
    const began = performance.now()
    let later: ReturnType<typeof setTimeout> | undefined
    const say = (said: Partial<Answer>) =>
      setAnswer((a) => ({ ...(a ?? NONE), problem: '', away: false, ...said, of: design }))
    const solve = async () => {
      // Which places there are is known first (it is asked for once): the one that is open may be another line-up's.
      const sent = await lineUpFor(client, design)
      const open = sent.meta.places.some((p) => p.name === place) ? place : null
      const columns = await call<Columns>('solve', { body: { design, place: open }, signal: stop.signal })
      if (stop.signal.aborted) return
      const before = latest.current
      const same = before?.id === sent.meta.id ? before.sheet : undefined
      const sheet = sheetOf(sent.meta, columns, same)
      latest.current = { of: design, sheet, id: sent.meta.id }
      // Opening another place asks again, and changes nothing.
      if (before?.of === design) return say({ meta: sent.lineup, sheet, solved: design })
      const { list, former } = before ? changes(sent.lineup, before.sheet, sheet) : { list: [], former: {} }
      const solvedIn = performance.now() - began
      say({ meta: sent.lineup, sheet, solved: design, changed: list, former, solvedIn })
    }
    solve().catch((error: unknown) => {
      if (stop.signal.aborted) return
      // Whoever does not answer is asked again: the sheet must not lag behind for ever.
      const away = error instanceof Refused && (error.status === 0 || error.status >= 502)
      if (away) later = setTimeout(() => setAsked((n) => n + 1), AGAIN)
      say({ problem: error instanceof Error ? error.message : String(error), away })
    })
    return () => {
      stop.abort()
      clearTimeout(later)
    }
  }, [client, design, place, asked])

  const dismiss = useCallback(() => setAnswer((a) => a && { ...a, changed: [], former: {} }), [])
  const { meta, sheet, solved, changed, former, solvedIn } = answer ?? NONE
  return {
    meta,
    sheet,
    solved,
    changed,
    former,
    solvedIn,
    solving: answer?.of !== design,
    problem: answer?.problem ?? '',
    away: answer?.away ?? false,
    dismiss,
  }
}
