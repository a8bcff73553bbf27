/** Why a number is what it is: formula, numbers put in, neighbours to walk to, what moves it most, pin, goal seek. */
import { memo } from 'react'
import { useQuery } from '@tanstack/react-query'
import { call, type Swing, type WhyTold } from '../../api'
import { standing } from '../../state/standing'
import { useSelected } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Prose } from '../../ui/Number'
import { Tex, texOf } from '../../ui/Tex'
import { Unpin } from '../../ui/Unpin'
import { PinForm } from './PinForm'
import { SeekForm } from './SeekForm'
import { Sensitivity } from './Sensitivity'

export type Mode = 'why' | 'pin' | 'seek'
const MOST_NEIGHBOURS = 9

interface Props {
  figure: string
  select: (key: string) => void
  mode: Mode
  setMode: (mode: Mode) => void
  onClose: () => void
}

export const WhyPanel = memo(function WhyPanel({ figure, select, mode, setMode, onClose }: Props) {
  const id = useSelected((s) => s.sheet.corners[s.corner]!.id)
  const meta = useSelected((s) => s.meta)
  // First the sheet, then what is asked of it: the numbers are painted before their reasons are worked out.
  const { solved: design } = useWorkspace('solved')
  const ask = { design, key: figure, corner: id }
  const stamp = JSON.stringify(design)
  const why = useQuery({
    queryKey: ['why', figure, id, stamp],
    queryFn: () => call<WhyTold>('why', { body: ask }),
    placeholderData: standing<WhyTold>(figure),
  })
  const bars = useQuery({
    queryKey: ['sensitivity', figure, id, stamp],
    queryFn: () => call<Swing[]>('sensitivity', { body: ask }),
    placeholderData: standing<Swing[]>(figure),
  })
  const w = why.data
  if (why.error) return <p className="wrong">{why.error.message}</p>
  if (!w) return <p className="quiet">Asking why …</p>
  const info = meta.figures[figure]
  const pinnable = !!info && ['build', 'operation', 'published'].includes(info.kind) && !w.pinned
  const seekable = w.movable.length > 0
  const toggle = (wanted: Mode, name: string) => (
    <button className="act" aria-expanded={mode === wanted} onClick={() => setMode(mode === wanted ? 'why' : wanted)}>
      {name}
    </button>
  )
  const done = () => setMode('why')
  const unit = info?.unit ?? ''
  return (
    <section aria-label={`Why ${w.title}`} data-testid="why">
      <Explained w={w} onClose={onClose} />
      <p className="noprint" style={{ display: 'flex', gap: 14, margin: '0 0 8px' }}>
        {pinnable && toggle('pin', 'Pin it …')}
        {seekable && toggle('seek', 'Make it equal to …')}
      </p>
      {mode === 'pin' && pinnable && (
        <PinForm
          key={figure}
          figure={figure}
          title={w.title}
          value={w.value}
          unit={unit}
          whole={meta.figures[figure]?.whole ?? false}
          done={done}
        />
      )}
      {mode === 'seek' && seekable && (
        <SeekForm key={figure} why={w} unit={unit} corner={id} best={bars.data?.[0]?.key} done={done} />
      )}
      <div className="two">
        {near({ title: 'Comes from', rows: w.comes_from, none: 'It is given.', select })}
        {near({ title: 'Carries on to', rows: w.carries_on_to, none: 'Nothing further.', select })}
      </div>
      {bars.data && bars.data.length > 0 && (
        <Sensitivity bars={bars.data} own={figure.split('.')[0]!} select={select} />
      )}
    </section>
  )
})

const Explained = memo(function Explained({ w, onClose }: { w: WhyTold; onClose: () => void }) {
  const kind = useSelected((s) => s.meta.figures[w.key]?.kind)
  const warnings = useSelected((s) => s.sheet.figures[w.key]?.warnings)
  const cornerTitle = useSelected((s) => s.sheet.corners.find((c) => c.id === w.corner)?.title)
  return (
    <>
      <h2 className="cap">
        <span>
          Why {w.title.toLowerCase()}{' '}
          {w.text && (
            <>
              is <span className="num">{w.text}</span>
            </>
          )}
        </span>
        <button className="act" onClick={onClose} aria-label="Close why">
          close
        </button>
      </h2>
      {kind !== 'given' && (
        <>
          <Tex tex={`${w.symbol || '?'} = ${w.formula}`} />
          {/* Where a figure is pinned or held, its formula gives another value than the one that stands. */}
          <Tex tex={`= ${w.numbers} = ${texOf(w.computed || w.text)}`} />
        </>
      )}
      <p style={{ margin: '2px 0 8px' }}>
        <Prose>{w.sentence}</Prose>{' '}
        {w.binds ? (
          <>
            Speaks for <b>{cornerTitle}</b>, which binds.
          </>
        ) : (
          <span className="quiet">At {cornerTitle}.</span>
        )}{' '}
        <span className="quiet">
          <Prose>{w.source}</Prose>
          {w.empirical ? ' (empirical)' : ''}
        </span>
      </p>
      {w.cause && <p className="wrong">{w.cause}</p>}
      {warnings?.map((warning) => (
        <p key={warning} className="wrong">
          Note: {warning}.
        </p>
      ))}
      {w.pinned && (
        <p className="pinned">
          Pinned{w.reason && `: “${w.reason}”`}
          {w.computed && ` · its own formula gives ${w.computed}`} <Unpin of={w.key} />
        </p>
      )}
    </>
  )
})

interface NearProps {
  title: string
  rows: WhyTold['comes_from']
  none: string
  select: (key: string) => void
}

/** Neighbours of the figure, as markup: they change whenever the panel does. */
function near({ title, rows, none, select }: NearProps) {
  return (
    <div>
      <b className="head">{title}</b>
      <ul className="near">
        {rows.slice(0, MOST_NEIGHBOURS).map((n) => (
          <li key={n.key}>
            <button className={n.pinned ? 'act pinned' : 'act'} data-walk={n.key} onClick={() => select(n.key)}>
              {n.title}
            </button>
            <span className="num">{n.text}</span>
          </li>
        ))}
      </ul>
      {rows.length === 0 && <span className="quiet">{none}</span>}
      {rows.length > MOST_NEIGHBOURS && <span className="quiet">and {rows.length - MOST_NEIGHBOURS} more</span>}
    </div>
  )
}
