/** A small chart of our own: few grid lines, direct labels, limits drawn as lines with their names; exports as PNG and CSV. */
import { scaleLinear, scaleLog } from 'd3-scale'
import { line } from 'd3-shape'
import { useRef } from 'react'
import type { Plot as PlotData, Series } from '../api/schema'
import { shown } from '../number'
import { Exports } from './Exports'

type Props = Omit<PlotData, 'form' | 'note'> & { width?: number; height?: number }
/** Where the curves lie between, of the width of a plot: what stands under one on the same scale begins and ends there. */
export const PLOT = { width: 372, left: 56, right: 12 }
interface Point {
  x: number
  y: number | null
}

const known = (values: (number | null)[]): number[] => values.filter((v): v is number => v !== null)
const points = (s: Series): Point[] => s.x.flatMap((x, i) => (x === null ? [] : [{ x, y: s.y[i] ?? null }]))
/** What is not above nothing has no place on decades. */
const placeable = (x: number | null, log: boolean): x is number => x !== null && (!log || x > 0)

export function Plot(props: Props) {
  const {
    title,
    series,
    limits,
    marks,
    x_name: xName,
    x_unit: xUnit,
    y_unit: yUnit,
    y_from: yFrom,
    y_to: yTo,
    log,
    log_y: logY,
  } = props
  const { width = PLOT.width, height = 196 } = props
  const svg = useRef<SVGSVGElement>(null)
  const xs = series.flatMap((s) => known(s.x).filter((x) => placeable(x, log)))
  const levels = limits.filter((l) => placeable(l.value, logY)).map((l) => ({ name: l.name, value: l.value! }))
  const dots = marks.flatMap((m) =>
    !placeable(m.x, log) || !placeable(m.y, logY) ? [] : [{ name: m.name, x: m.x, y: m.y }],
  )
  const ys = [
    ...series.flatMap((s) => known(s.y).filter((y) => placeable(y, logY))),
    ...levels.map((l) => l.value),
    ...dots.map((m) => m.y),
  ]
  if (xs.length === 0 || series.every((s) => known(s.y).length === 0))
    return <p className="quiet">No curve: a figure it needs is unknown.</p>
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)]
  const [low, high] = [Math.min(...ys), Math.max(...ys)]
  const pad = (high - low) * 0.08 || 1
  const [y0, y1] = logY ? [yFrom ?? low / 1.5, yTo ?? high * 1.5] : [yFrom ?? low - pad, yTo ?? high + pad]
  const [l, r, t, b] = [PLOT.left, PLOT.right, series.length > 1 ? 20 : 14, 34]
  const X = (log ? scaleLog : scaleLinear)([x0, x1], [l, width - r])
  const Y = (logY ? scaleLog : scaleLinear)([y0, y1], [height - b, t])
  const path = (s: Series) =>
    line<Point>()
      .defined((p) => placeable(p.x, log) && placeable(p.y, logY))
      .x((p) => X(p.x))
      .y((p) => Y(p.y!))(points(s)) ?? ''
  // Of many decades every second or third: their names need room.
  const decades = X.ticks().filter((v) => Math.log10(v) % 1 === 0)
  const ticks = log ? decades.filter((_, i) => i % Math.ceil(decades.length / 6) === 0) : X.ticks(4)
  const levelsY = logY ? Y.ticks().filter((v) => Math.log10(v) % 1 === 0) : Y.ticks(4)
  // A name beside a mark does not lie on a level that passes there.
  const flat = [
    ...levels.map((m) => m.value),
    ...series.flatMap((s) => (new Set(s.y).size === 1 ? known(s.y).slice(0, 1) : [])),
  ]
  const names = placed(
    dots.map((m) => {
      const [x, y, left] = [X(m.x), Y(m.y), X(m.x) > width * 0.66]
      const above = left ? -7 : 4
      const crossed = flat.some((v) => Math.abs(Y(v) - y - above + 4) < 9)
      return { name: m.name, x: x + (left ? -8 : 8), y: y + (crossed ? 17 : above), left }
    }),
  )
  const csv = () =>
    ['series,x,y', ...series.flatMap((s) => points(s).map((p) => [s.name, p.x, p.y ?? ''].join(',')))].join('\n')
  const number = (v: number, unit: string) => {
    // On decades of seconds no hours: 1000 s stands beside 10 s.
    if (log && unit === 's' && v >= 1) return `${v} s`
    const s = shown(v, unit, 3)
    return unit === '' ? `${Number((v * 100).toPrecision(3))} %` : `${s.number} ${s.unit}`
  }
  return (
    <figure style={{ margin: '0 0 14px' }}>
      <svg
        ref={svg}
        className="plot"
        viewBox={`0 -4 ${width + 8} ${height + 4}`}
        width="100%"
        role="img"
        aria-label={title}>
        {levelsY.map((v) => (
          <g key={v}>
            <line className="axis" x1={l} x2={width - r} y1={Y(v)} y2={Y(v)} />
            <text x={l - 5} y={Y(v) + 4} textAnchor="end">
              {number(v, yUnit)}
            </text>
          </g>
        ))}
        {ticks.map((v) => (
          <text key={v} x={X(v)} y={height - b + 15} textAnchor={X(v) > width - r - 16 ? 'end' : 'middle'}>
            {number(v, xUnit)}
          </text>
        ))}
        <text className="word" x={width - r} y={height - 4} textAnchor="end">
          {xName}
        </text>
        {levels.map((m) => (
          <g key={m.name}>
            <line className="limit" x1={l} x2={width - r} y1={Y(m.value)} y2={Y(m.value)} />
            <text className="word" x={width - r} y={Y(m.value) - 4} textAnchor="end">
              {m.name}
            </text>
          </g>
        ))}
        {series.map((s) => (
          <path
            key={s.name}
            d={path(s)}
            fill="none"
            stroke={`var(--${s.tone})`}
            strokeWidth={1.8}
            strokeDasharray={s.dashed ? '4 3' : undefined}
          />
        ))}
        {/* Names stand above, in their curves' colours: beside curves that nearly meet they would lie on each other. */}
        {series.length > 1 &&
          series.map((s, i) => (
            <text
              key={s.name}
              className="word"
              x={l + (i * (width - l - r)) / series.length}
              y={9}
              style={{ fill: `var(--${s.tone})` }}>
              {s.name}
            </text>
          ))}
        {dots.map((m, i) => (
          <g key={m.name}>
            <path d={`M${X(m.x)} ${Y(m.y) - 5}l5 5l-5 5l-5 -5Z`} fill="var(--copper)" />
            <text className="word" x={names[i]!.x} y={names[i]!.y} textAnchor={names[i]!.left ? 'end' : 'start'}>
              {m.name}
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="noprint" style={{ fontSize: 13 }}>
        <span className="quiet">{title} · </span>
        <Exports name={title} svg={() => svg.current} csv={csv} />
      </figcaption>
    </figure>
  )
}

interface Name {
  name: string
  x: number
  y: number
  /** Whether it ends at `x`. */
  left: boolean
}
const [LETTER, LINE] = [6.6, 13]

/** Names beside marks, each as far down as it takes to lie on none of those before it. */
function placed(names: Name[]): Name[] {
  const span = (n: Name): [number, number] =>
    n.left ? [n.x - LETTER * n.name.length, n.x] : [n.x, n.x + LETTER * n.name.length]
  const out: Name[] = []
  for (const each of names) {
    const [from, to] = span(each)
    let y = each.y
    const lies = () => out.some((o) => Math.abs(o.y - y) < LINE && span(o)[0] < to && span(o)[1] > from)
    while (lies()) y += LINE
    out.push({ ...each, y })
  }
  return out
}
