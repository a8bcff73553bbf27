/** The sheet of the design as it stands; an answer that came too late for its question is dropped. */
import { useCallback, useEffect, useRef, useState } from 'react'
import { call, type Design, type Sheet } from '../api'
import { changes, type Change } from './changes'

export interface Solving {
  sheet: Sheet | undefined
  /** Whether the sheet lags behind the design. */
  solving: boolean
  /** Why the design as it stands cannot be solved; the sheet is then the last one that could. */
  problem: string
  solvedIn: number
  changed: Change[]
  former: Record<string, number | null>
  dismiss: () => void
}

interface Answer {
  of: Design
  sheet: Sheet | undefined
  problem: string
  changed: Change[]
  former: Record<string, number | null>
  solvedIn: number
}

export function useSolving(design: Design): Solving {
  const [answer, setAnswer] = useState<Answer>()
  const latest = useRef<Sheet>(undefined)

  useEffect(() => {
    const stop = new AbortController()
    const began = performance.now()
    const say = (said: Partial<Answer>) =>
      setAnswer((a) => ({
        ...(a ?? { sheet: undefined, changed: [], former: {}, solvedIn: 0 }),
        problem: '',
        ...said,
        of: design,
      }))
    call<Sheet>('solve', { body: { design }, signal: stop.signal })
      .then((sheet) => {
        if (stop.signal.aborted) return
        const found = latest.current ? changes(latest.current, sheet) : { list: [], former: {} }
        latest.current = sheet
        say({ sheet, changed: found.list, former: found.former, solvedIn: performance.now() - began })
      })
      .catch((error: unknown) => {
        if (!stop.signal.aborted) say({ problem: error instanceof Error ? error.message : String(error) })
      })
    return () => stop.abort()
  }, [design])

  const dismiss = useCallback(() => setAnswer((a) => a && { ...a, changed: [], former: {} }), [])
  return {
    sheet: answer?.sheet,
    solving: answer?.of !== design,
    problem: answer?.problem ?? '',
    solvedIn: answer?.solvedIn ?? 0,
    changed: answer?.changed ?? [],
    former: answer?.former ?? {},
    dismiss,
  }
}
