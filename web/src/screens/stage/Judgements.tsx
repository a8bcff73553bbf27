/** What the checks of a stage say, worst first, each with the moves that would mend it. */
import { memo } from 'react'
import { useQuery } from '@tanstack/react-query'
import { call, type CheckValue, type Remedy } from '../../api'
import { text } from '../../number'
import { checksAt, worstFirst } from '../../state/figures'
import { given, lineUp, pinned, pinnedPart } from '../../state/moves'
import { useSelected, useSheet } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Unpin } from '../../ui/Unpin'

interface Props {
  place: string
  select: (key: string) => void
}

export const Judgements = memo(function Judgements({ place, select }: Props) {
  const { meta, sheet } = useSheet()
  // What is asked is asked of the design that the sheet is of.
  const { solved: design } = useWorkspace('solved')
  const keys = worstFirst(sheet, checksAt(meta, place))
  const mendable = keys.some((key) => sheet.checks[key]!.verdict !== 'holds')
  const remedies = useQuery({
    queryKey: ['remedies', place, JSON.stringify(design)],
    queryFn: () => call<Remedy[]>('remedies', { body: { design, place } }),
    enabled: mendable,
    staleTime: Infinity,
  })
  if (keys.length === 0) return null
  return (
    <>
      <h2 className="cap" style={{ marginTop: 6 }}>
        Judgements
      </h2>
      {keys.map((key) => {
        const check = sheet.checks[key]!
        return (
          <div className={check.verdict === 'holds' ? 'judge' : `judge ${check.verdict}`} key={key} data-check={key}>
            {check.verdict === 'holds' ? (
              <p className="quiet">{check.sentence}</p>
            ) : (
              <>
                <Sentence of={key} check={check} />
                {check.verdict === 'fails' && <UnpinAtFault of={key} />}
                <Remedies
                  of={key}
                  found={remedies.data}
                  seeking={remedies.isFetching}
                  known={check.verdict !== 'unknown'}
                  select={select}
                />
              </>
            )}
          </div>
        )
      })}
    </>
  )
})

function Sentence({ of, check }: { of: string; check: CheckValue }) {
  const { meta, sheet } = useSheet()
  const info = meta.checks[of]!
  return (
    <p>
      <b className="head">
        {info.title}, {sheet.corners[check.worst]?.title}.
      </b>{' '}
      {check.sentence}{' '}
      <span className="quiet">
        {info.why}
        {info.harm === 'people' ? ' People can be hurt.' : ''}
      </span>
    </p>
  )
}

/** The pin that a failing check may come from: on one of its own figures, or else on another of its stage. */
function UnpinAtFault({ of }: { of: string }) {
  const { meta, sheet } = useSheet()
  const { design } = useWorkspace('design')
  const info = meta.checks[of]!
  const own = [info.demand, info.capability].find((f) => design.pins[f])
  const near = Object.keys(design.pins).find((f) => f.startsWith(`${info.place}.`) && sheet.figures[f]?.computed)
  const fault = own ?? near
  if (!fault) return null
  const { title = fault, unit = '' } = meta.figures[fault] ?? {}
  return (
    <Unpin of={fault}>
      Unpin {title.toLowerCase()} → {text(sheet.figures[fault]?.computed?.[0], unit, 3)}
    </Unpin>
  )
}

/** What a remedy breaks, and whether that leads back to where one was. */
const costs = (r: Remedy) => r.breaks.join(', ').toLowerCase() + (r.returns ? '; what mends that undoes this' : '')

interface RemediesProps {
  of: string
  found: Remedy[] | undefined
  seeking: boolean
  /** Of what cannot be judged only moves are told: that there is none says nothing. */
  known: boolean
  select: (key: string) => void
}

function Remedies({ of, found, seeking, known, select }: RemediesProps) {
  const meta = useSelected((s) => s.meta)
  const { edit } = useWorkspace('edit')
  if (seeking) return <span className="quiet">seeking a remedy …</span>
  if (!found) return null
  const mine = found.filter((r) => r.check === of)
  const info = meta.checks[of]!
  if (mine.length === 0 && !known) return null
  if (mine.length === 0)
    return (
      <button className="act" onClick={() => select(info.demand)}>
        No single move reaches it: see why
      </button>
    )
  const reason = `remedy for: ${info.title.toLowerCase()}`
  const move = (r: Remedy) => {
    if (r.kind === 'line-up' && r.part) return lineUp(r.part)
    if (r.part) return pinnedPart(r.key, r.part, r.quantity, reason)
    return r.kind === 'given' ? given(r.key, r.after) : pinned(r.key, r.after, reason)
  }
  return mine.map((r) =>
    r.offered ? (
      <button className="act" key={r.key} data-remedy={r.key} onClick={() => edit(r.sentence, move(r))}>
        {r.sentence}
        {r.breaks.length > 0 && <span className="quiet"> (then fails: {costs(r)})</span>}
      </button>
    ) : (
      <span className="quiet" key={r.key} data-wish={r.key}>
        {r.kind === 'wish'
          ? `${r.sentence}.`
          : `It would take: ${r.sentence[0]!.toLowerCase() + r.sentence.slice(1)}. That is no setting.`}{' '}
      </span>
    ),
  )
}
