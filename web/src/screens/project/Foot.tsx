/** The keys that act here, and how the design stands in one line. */
import { useLocation } from 'react-router'
import type { Verdict } from '../../api'
import { useWorkspace } from '../../state/workspace'

const EVERYWHERE: [string[], string][] = [
  [['[', ' ', ']'], 'walk the line'],
  [['1', '–', '-'], 'corner'],
]
const ON_A_SHEET: [string[], string][] = [
  [['w'], 'why'],
  [['p'], 'pin'],
  [['g'], 'make equal to …'],
]
const LAST: [string[], string][] = [
  [['f'], 'swap front end'],
  [['Ctrl Z'], 'undo'],
]

export function Foot() {
  const view = useLocation().pathname.split('/')[3] ?? 'stages'
  return (
    <footer className="foot">
      {[...EVERYWHERE, ...(view === 'stages' ? ON_A_SHEET : []), ...LAST].map(([keys, what]) => (
        <span key={what}>
          {keys.map((key, i) => (i % 2 ? key : <kbd key={key}>{key}</kbd>))} {what}
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
