/** Up to four probed traces over one time, volts on the left and amperes on the right; two cursors; the traces of before in grey. */
import { scaleLinear } from 'd3-scale'
import { useMemo, type RefObject } from 'react'
import type { ProbedTrace, ProbeTold } from '../api/schema'
import { text } from '../number'
import { Cursor, Times, type Cursors } from '../screens/scope/Traces'
import { across, FRAME, type View } from '../screens/scope/traces'

export const TONES = ['copper', 'slate', 'hold', 'tight'] as const
type Unit = ProbedTrace['unit']

interface Props {
  told: ProbeTold
  before: ProbeTold | null
  svg: RefObject<SVGSVGElement | null>
  view: View
  cursors: Cursors
  move: (which: 0 | 1, share: number) => void
}

/** The scale of a unit over all traces that have it, the former ones too; with zero in it, unless all lie far from it and close together. */
function scaleOf(unit: Unit, traces: ProbedTrace[]) {
  const own = traces.filter((t) => t.unit === unit)
  if (own.length === 0) return null
  let [low, high] = [Infinity, -Infinity]
  for (const t of own)
    for (const v of t.values) {
      low = Math.min(low, v)
      high = Math.max(high, v)
    }
  if (high - low > 0.25 * Math.max(Math.abs(low), Math.abs(high))) [low, high] = [Math.min(low, 0), Math.max(high, 0)]
  const pad = (high - low || 1) * 0.06
  return scaleLinear([low - pad, high + pad], [FRAME.bottom, FRAME.top])
}

/** So many digits that neighbouring ticks are told apart, where a trace moves little. */
const digitsFor = ([low, high]: number[]): number =>
  Math.max(3, Math.ceil(Math.log10((10 * Math.max(Math.abs(low!), Math.abs(high!))) / (high! - low!))) + 1)

const RIGHT = 62
/** How many letters a tick has room for left of the traces; more are drawn narrower. */
const LETTERS = 6
/** What a gate's lane takes under the traces. */
const LANE = 32

export function ProbePlot({ told, before, svg, view, cursors, move }: Props) {
  const scales = useMemo(() => {
    const all = [...told.traces, ...(before?.traces ?? [])]
    return { V: scaleOf('V', all), A: scaleOf('A', all) }
  }, [told, before])
  const path = (t: ProbedTrace, seconds: number) => {
    const Y = scales[t.unit]
    if (!Y) return ''
    let d = ''
    const [first, last] = [view.from - 0.02, view.from + 1 / view.zoom + 0.02]
    for (let i = 0; i < t.times.length; i++) {
      const share = t.times[i]! / seconds
      if (share < first || share > last) continue
      d += `${d ? 'L' : 'M'}${across(share, view).toFixed(1)} ${Y(t.values[i]!).toFixed(1)}`
    }
    return d
  }
  const height = FRAME.height - 20 + told.gates.length * LANE + (told.gates.length > 0 ? 8 : 0)
  const width = FRAME.width + (scales.A ? RIGHT : 0)
  return (
    <svg
      ref={svg}
      className="plot probed"
      viewBox={`0 0 ${width} ${height}`}
      width="100%"
      role="group"
      aria-label={`Traces of ${told.traces.map((t) => t.name).join(', ')}`}>
      <defs>
        <clipPath id="probed">
          <rect x={FRAME.left} y="0" width={FRAME.width - FRAME.right - FRAME.left} height={height} />
        </clipPath>
      </defs>
      <Times period={told.seconds} view={view} />
      {(['V', 'A'] as const).map((unit) =>
        scales[unit]?.ticks(6).map((v) => {
          const words = text(v, unit, digitsFor(scales[unit]!.domain()))
          return (
            <g key={`${unit}${v}`}>
              {(unit === 'V' || !scales.V) && (
                <line
                  className="axis"
                  x1={FRAME.left}
                  x2={FRAME.width - FRAME.right}
                  y1={scales[unit]!(v)}
                  y2={scales[unit]!(v)}
                />
              )}
              <text
                x={unit === 'V' ? FRAME.left - 6 : FRAME.width - FRAME.right + 6}
                y={scales[unit]!(v) + 4}
                textAnchor={unit === 'V' ? 'end' : 'start'}
                textLength={words.length > LETTERS ? FRAME.left - 10 : undefined}
                lengthAdjust="spacingAndGlyphs">
                {words}
              </text>
            </g>
          )
        }),
      )}
      <g clipPath="url(#probed)" fill="none">
        {before?.traces.map((t) => (
          <path key={t.unit + t.name} d={path(t, before.seconds)} stroke="var(--rule)" strokeWidth="2.4" />
        ))}
        {told.traces.map((t, i) => (
          <path key={t.unit + t.name} d={path(t, told.seconds)} stroke={`var(--${TONES[i]})`} strokeWidth="1.8" />
        ))}
      </g>
      {told.gates.map((gate, k) => {
        const y = FRAME.bottom + 46 + k * LANE
        return (
          <g key={gate.name}>
            <text x={FRAME.left + 2} y={y - 9} className="lane">
              {gate.name}
            </text>
            <line className="axis" x1={FRAME.left} x2={FRAME.width - FRAME.right} y1={y + 6} y2={y + 6} />
            <g clipPath="url(#probed)">
              {gate.spans.map(([from, to]) => (
                <rect
                  key={from}
                  x={across(from / told.seconds, view)}
                  width={Math.max(across(to / told.seconds, view) - across(from / told.seconds, view), 0.8)}
                  y={y - 6}
                  height={12}
                  fill="var(--slate)"
                />
              ))}
            </g>
          </g>
        )
      })}
      {([0, 1] as const).map((which) => (
        <Cursor key={which} which={which} at={cursors[which]} view={view} svg={svg} move={move} width={width} />
      ))}
    </svg>
  )
}
