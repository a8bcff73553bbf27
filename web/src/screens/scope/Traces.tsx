/** The traces of one output period with two cursors. */
import { memo, useMemo, type PointerEvent as ReactPointerEvent, type RefObject } from 'react'
import type { ScopeTold } from '../../api'
import { shown, text } from '../../number'
import { across, dutyShades, FRAME, fullScale, most, shareAt, stretch, tracePath, type View } from './traces'

const OUTPUT = { middle: 122, half: 108 }
const NODE = { middle: 340, half: 84 }
/** The names stand between both plots, where no trace runs. */
const BETWEEN = 247

export type Cursors = [number, number]
interface Props {
  p: ScopeTold
  svg: RefObject<SVGSVGElement | null>
  view: View
  cursors: Cursors
  move: (which: 0 | 1, share: number) => void
}

export function Traces({ p, svg, view, cursors, move }: Props) {
  const { output, choke, node, link, load } = p.traces
  const amperes = fullScale(p.rectifier ? (most(load) > most(choke) ? load : choke) : choke)
  const [outputPath, chokePath, loadPath, nodePath, linkPath] = useMemo(
    () => [
      tracePath(output, p.period, view, OUTPUT),
      tracePath(choke, p.period, view, OUTPUT, amperes || 1),
      p.rectifier ? tracePath(load, p.period, view, OUTPUT, amperes || 1) : '',
      tracePath(node, p.period, view, NODE),
      tracePath(link, p.period, view, NODE, fullScale(node) || 1),
    ],
    [output, choke, load, node, link, amperes, p.rectifier, p.period, view],
  )
  const right = FRAME.width - FRAME.right
  const whole = view.zoom === 1
  return (
    <svg
      ref={svg}
      className="plot"
      viewBox={`0 0 ${FRAME.width} ${FRAME.height}`}
      width="100%"
      role="group"
      aria-label="Waveforms of one output period">
      <defs>
        <clipPath id="in">
          <rect x={FRAME.left} y="0" width={right - FRAME.left} height={FRAME.height} />
        </clipPath>
      </defs>
      <Times period={p.period} view={view} />
      <Levels output={fullScale(output)} node={fullScale(node)} />
      <g clipPath="url(#in)" fill="none">
        <path d={chokePath} stroke="var(--hold)" strokeWidth={view.zoom > 1 ? 1.3 : 0.7} />
        {loadPath && (
          <path data-testid="load" d={loadPath} stroke="var(--ink)" strokeWidth="1.6" strokeDasharray="7 3" />
        )}
        <path d={outputPath} stroke="var(--copper)" strokeWidth="2" />
        {whole ? (
          <Shades node={node} period={p.period} columns={Math.max(24, Math.round(p.carrier_order / PULSES_A_SHADE))} />
        ) : (
          <path d={nodePath} stroke="var(--slate)" strokeWidth={view.zoom > 4 ? 1.2 : 0.7} />
        )}
        <path d={linkPath} stroke="var(--ink)" strokeWidth="1.4" />
      </g>
      {whole && <Inset node={node} period={p.period} at={cursors[0]} />}
      <text className="word" x={FRAME.left + 6} y={BETWEEN} style={{ fill: 'var(--copper)' }}>
        output voltage
      </text>
      <text className="word" x={FRAME.left + 216} y={BETWEEN} style={{ fill: 'var(--hold)' }}>
        choke{p.rectifier ? ', load (dashed)' : ' current'}, ±{shown(amperes, 'A').number} A full height
      </text>
      <text className="word" x={right - 6} y={BETWEEN} textAnchor="end" style={{ fill: 'var(--slate)' }}>
        {whole ? 'below: link, and bridge node (the shade is its duty)' : 'below: link and bridge node'}
      </text>
      {([0, 1] as const).map((which) => (
        <Cursor key={which} which={which} at={cursors[which]} view={view} svg={svg} move={move} />
      ))}
    </svg>
  )
}

const PULSES_A_SHADE = 8

/** Over a whole period single pulses cannot be told apart: their share of the time is drawn as shade. */
function Shades({ node, period, columns }: { node: ScopeTold['traces']['node']; period: number; columns: number }) {
  const shades = useMemo(() => dutyShades(node, period, columns), [node, period, columns])
  const full = fullScale(node) || 1
  const whole: View = { from: 0, zoom: 1 }
  return shades.map(({ from, to, top, bottom, share }) => {
    const [high, low] = [top, bottom].map((v) => NODE.middle - (v / full) * NODE.half)
    return (
      <rect
        key={from}
        x={across(from, whole)}
        width={across(to, whole) - across(from, whole)}
        y={high}
        height={low! - high!}
        shapeRendering="crispEdges"
        fill="var(--slate)"
        opacity={0.06 + 0.74 * share}
      />
    )
  })
}

const INSET = { left: 84, width: 250, top: 352, height: 70 }

/** A few pulses about cursor A, as they are. */
function Inset({ node, period, at }: { node: ScopeTold['traces']['node']; period: number; at: number }) {
  const { path, seconds } = useMemo(() => stretch(node, at * period, INSET), [node, period, at])
  return (
    <g data-testid="inset">
      <rect
        x={INSET.left}
        y={INSET.top}
        width={INSET.width}
        height={INSET.height}
        fill="var(--sheet)"
        stroke="var(--rule)"
      />
      <path d={path} fill="none" stroke="var(--slate)" strokeWidth="1.3" />
      <text className="word" x={INSET.left + 6} y={INSET.top + INSET.height - 4}>
        at A, {text(seconds, 's')} wide
      </text>
    </g>
  )
}

export const Times = memo(function Times({ period, view }: { period: number; view: View }) {
  return [0, 1, 2, 3, 4].map((i) => {
    const share = view.from + i / (4 * view.zoom)
    const x = across(share, view)
    return (
      <g key={i}>
        <line className="axis" x1={x} x2={x} y1={FRAME.top} y2={FRAME.bottom} />
        <text x={x} y="446" textAnchor={x > FRAME.width - 30 ? 'end' : 'middle'}>
          {text(share * period, 's')}
        </text>
      </g>
    )
  })
})

function Levels({ output, node }: { output: number; node: number }) {
  const labels: [string, number][] = [
    [`${Math.round(output)} V`, 18],
    ['0', 126],
    [`${Math.round(-output)} V`, 230],
    [`${Math.round(node)} V`, 260],
    ['0', 344],
    [`${Math.round(-node)} V`, 424],
  ]
  return (
    <>
      {[14, 122, 230, 256, 340, 424].map((y) => (
        <line key={y} className="axis" x1={FRAME.left} x2={FRAME.width - FRAME.right} y1={y} y2={y} />
      ))}
      {labels.map(([label, y]) => (
        <text key={y} x={FRAME.left - 6} y={y} textAnchor="end">
          {label}
        </text>
      ))}
    </>
  )
}

interface CursorProps {
  which: 0 | 1
  at: number
  view: View
  svg: RefObject<SVGSVGElement | null>
  move: (which: 0 | 1, share: number) => void
  /** Of the whole drawing, in its own units. */
  width?: number
}

/** A cursor is dragged, or walked with the arrow keys: a fine step, with shift a coarse one. */
export const Cursor = memo(function Cursor({ which, at, view, svg, move, width = FRAME.width }: CursorProps) {
  const x = across(at, view)
  if (x < FRAME.left - 1 || x > FRAME.width - FRAME.right + 1) return null
  const drag = (e: ReactPointerEvent) => {
    e.currentTarget.setPointerCapture(e.pointerId)
    const on = (m: PointerEvent) => {
      const box = svg.current!.getBoundingClientRect()
      move(which, shareAt(((m.clientX - box.left) / box.width) * width, view))
    }
    const off = () => {
      window.removeEventListener('pointermove', on)
      window.removeEventListener('pointerup', off)
    }
    window.addEventListener('pointermove', on)
    window.addEventListener('pointerup', off)
  }
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={`Cursor ${which ? 'B' : 'A'}`}
      aria-valuenow={at}
      aria-valuemin={0}
      aria-valuemax={1}
      onPointerDown={drag}
      style={{ cursor: 'ew-resize' }}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return
        e.preventDefault()
        move(which, at + ((e.key === 'ArrowRight' ? 1 : -1) * (e.shiftKey ? 0.02 : 0.002)) / view.zoom)
      }}>
      <rect x={x - 8} y="0" width="16" height="430" fill="transparent" />
      <line
        x1={x}
        x2={x}
        y1={FRAME.top}
        y2={FRAME.bottom}
        stroke="var(--ink)"
        strokeDasharray={which ? '4 3' : undefined}
      />
      <path
        d={`M${x} 1L${x + 7} 8L${x} 15L${x - 7} 8Z`}
        fill={which ? 'var(--sheet)' : 'var(--ink)'}
        stroke="var(--ink)"
        strokeWidth="1.6"
      />
    </g>
  )
})
