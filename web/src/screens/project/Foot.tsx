/** The keys that act here, and how the design stands in one line. */
import { Fragment } from 'react'
import { useLocation } from 'react-router'
import type { Verdict } from '../../api'
import { useWorkspace } from '../../state/workspace'
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
    </footer>
  )
}

function Summary() {
  const { sheet, solvedIn } = useWorkspace()
  if (!sheet) return null
  const verdicts = Object.values(sheet.checks).map((c) => c.verdict)
  const count = (v: Verdict) => verdicts.filter((x) => x === v).length
  const words = [
    `solved in ${Math.round(solvedIn)} ms`,
    `${count('holds')} hold`,
    `${count('tight')} tight`,
    `${count('fails')} fail`,
    ...(count('unknown') ? [`${count('unknown')} unknown`] : []),
  ]
  return words.join(' · ')
}
