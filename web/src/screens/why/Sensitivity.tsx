/** What moves a figure most: the response to a step of each given, with the build held and re-sized. */
import { memo, Fragment } from 'react'
import type { Swing } from '../../api'
import { placeTitle } from '../../state/figures'
import { useSelected } from '../../state/sheet'
import { useWorked } from '../../state/workspace'

interface Props {
  bars: Swing[]
  /** The place whose figure is moved: names of its own givens stand alone, others with their place. */
  own: string
  select: (key: string) => void
}

const placeOf = (key: string) => key.split('.')[0]!

export const Sensitivity = memo(function Sensitivity({ bars, own, select }: Props) {
  const meta = useSelected((s) => s.meta)
  const loads = useWorked((w) => w.design.loads)
  const most = Math.max(...bars.flatMap((b) => [b.held, b.sized].map((v) => Math.abs(v ?? 0))), 1e-9)
  const x = (v: number | null) => 50 + (48 * (v ?? 0)) / most
  return (
    <>
      <h3 style={{ fontSize: 14, margin: '12px 0 4px' }}>
        What moves it most{' '}
        <span className="quiet" style={{ fontWeight: 400 }}>
          {`by ${usual} each · bar: build held · rhombus: re-sized`}
        </span>
      </h3>
      <div className="sens">
        {bars.map((b) => (
          <Fragment key={b.key}>
            <button className="act" style={{ fontWeight: 400, color: 'inherit' }} onClick={() => select(b.key)}>
              {b.title}
              {b.step !== usual && <span className="quiet"> {b.step}</span>}
              {placeOf(b.key) !== own && <span className="quiet"> {placeTitle(meta, loads, placeOf(b.key))}</span>}
            </button>
            <svg viewBox="0 0 100 14" height="14" width="100%" preserveAspectRatio="none" aria-hidden="true">
              <line x1="50" x2="50" y1="0" y2="14" stroke="var(--slate)" />
              <rect x={Math.min(50, x(b.held))} y="4" width={Math.abs(x(b.held) - 50)} height="6" fill="var(--slate)" />
              {b.sized !== null && <path d={`M${x(b.sized) - 2.4} 7l2.4 -4l2.4 4l-2.4 4Z`} fill="var(--copper)" />}
            </svg>
            <span className="num">{change(b, b.held)}</span>
            {b.jumped && (
              <small>
                re-sized {change(b, b.sized)}: {b.jumped}
              </small>
            )}
          </Fragment>
        ))}
      </div>
    </>
  )
})

/** The step that most are moved by; the others say theirs. */
const usual = '+10 %'

/** A change in words: per cent, of temperatures kelvin. */
export function change({ kelvin }: Pick<Swing, 'kelvin'>, v: number | null): string {
  if (v === null) return '–'
  return `${v > 0 ? '+' : ''}${kelvin ? `${v.toFixed(1)} K` : `${(v * 100).toFixed(1)} %`}`
}
