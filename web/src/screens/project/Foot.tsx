/** The keys that act here, and how the design stands in one line. */
import { Fragment } from 'react'
import { useLocation } from 'react-router'
import type { Verdict } from '../../api'
import { useWorked, useWorkspace } from '../../state/workspace'
import { keyRows } from '../../ui/keyTable'

export function Foot() {
  const view = useLocation().pathname.split('/')[3] ?? 'stages'
  return (
    <footer className="foot">
      {keyRows
        .filter((key) => key.short && (!key.on || key.on === view))
        .map((key) => (
          <span key={key.short}>
            {key.keys.map((k) => (k === '…' ? <Fragment key={k}>–</Fragment> : <kbd key={k}>{k}</kbd>))} {key.short}
          </span>
        ))}
      <span className="gap" data-testid="summary">
        <Summary />
      </span>
      <Announced />
    </footer>
  )
}

/** How it stands, for those who listen: said when it changes, and while solving takes long enough to wonder. */
function Announced() {
  const words = useWorked(({ sheet, solving }) => {
    const worst = sheet ? counts(sheet.checks).filter(([n, word]) => n > 0 || word !== 'unknown') : []
    return solving ? 'Solving' : worst.map(([n, word]) => `${n} ${word}`).join(', ')
  })
  return (
    <span className="sr" role="status">
      {words}
    </span>
  )
}

const WORDS: [Verdict, string][] = [
  ['holds', 'hold'],
  ['tight', 'tight'],
  ['fails', 'fail'],
  ['unknown', 'unknown'],
]
const counts = (checks: Record<string, { verdict: Verdict }>): [number, string][] => {
  const verdicts = Object.values(checks).map((c) => c.verdict)
  return WORDS.map(([verdict, word]) => [verdicts.filter((v) => v === verdict).length, word])
}

function Summary() {
  const { sheet, solvedIn } = useWorkspace('sheet', 'solvedIn')
  if (!sheet) return null
  const told = counts(sheet.checks).filter(([n, word]) => n > 0 || word !== 'unknown')
  const words = [`solved in ${Math.round(solvedIn)} ms`, ...told.map(([n, word]) => `${n} ${word}`)]
  return words.join(' · ')
}
