/** A small chart of our own: few grid lines, direct labels, limits drawn as lines with their names; exports as PNG and SVG. */
import { useRef, type ReactNode } from 'react'
import { shown } from '../number'
import { saveText, svgToPng } from './save'

export interface Series {
  name: string
  x: number[]
  y: (number | null)[]
  tone: string
  dash?: string
}
export interface Limit {
  value: number
  name: string
}
interface Props {
  title: string
  series: Series[]
  xUnit: string
  yUnit: string
  xName: string
  limits?: Limit[]
  width?: number
  height?: number
  yFrom?: number
  yTo?: number
  marks?: { x: number; y: number; name: string }[]
  children?: ReactNode
}

export function Plot({
  title,
  series,
  xUnit,
  yUnit,
  xName,
  limits = [],
  width = 360,
  height = 200,
  yFrom,
  yTo,
  marks = [],
}: Props) {
  const svg = useRef<SVGSVGElement>(null)
  const xs = series.flatMap((s) => s.x)
  const ys = [
    ...series.flatMap((s) => s.y).filter((v): v is number => v !== null),
    ...limits.map((l) => l.value),
    ...marks.map((m) => m.y),
  ]
  if (xs.length === 0 || ys.length === 0) return <p className="quiet">No curve: a figure it needs is unknown.</p>
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)]
  const pad = (Math.max(...ys) - Math.min(...ys)) * 0.08 || 1
  const [y0, y1] = [yFrom ?? Math.min(...ys) - pad, yTo ?? Math.max(...ys) + pad]
  const [l, r, t, b] = [54, 10, series.length > 1 ? 20 : 14, 34]
  const X = (v: number) => l + ((v - x0) / (x1 - x0 || 1)) * (width - l - r)
  const Y = (v: number) => height - b - ((v - y0) / (y1 - y0 || 1)) * (height - t - b)
  const ticks = (from: number, to: number, n: number) => {
    const raw = (to - from) / n
    const mag = 10 ** Math.floor(Math.log10(raw))
    const s = [1, 2, 5, 10].map((k) => k * mag).find((k) => k >= raw)!
    return Array.from({ length: Math.floor(to / s) - Math.ceil(from / s) + 1 }, (_, i) => (Math.ceil(from / s) + i) * s)
  }
  const path = (s: Series) =>
    s.x
      .map((x, i) => {
        const y = s.y[i]
        return y === null || y === undefined
          ? ''
          : `${i === 0 || s.y[i - 1] === null ? 'M' : 'L'}${X(x).toFixed(1)} ${Y(y).toFixed(1)}`
      })
      .join('')
  const csv = () =>
    [
      [xName, ...series.map((s) => s.name)].join(','),
      ...(series[0]?.x ?? []).map((x, i) => [x, ...series.map((s) => s.y[i] ?? '')].join(',')),
    ].join('\n')
  const number = (v: number, unit: string) => {
    const s = shown(v, unit, 3)
    return unit === '' ? `${Number((v * 100).toPrecision(3))} %` : `${s.number} ${s.unit}`
  }
  return (
    <figure style={{ margin: '0 0 14px' }}>
      <svg ref={svg} className="plot" viewBox={`0 0 ${width} ${height}`} width="100%" role="img" aria-label={title}>
        {ticks(y0, y1, 4).map((v) => (
          <g key={v}>
            <line className="axis" x1={l} x2={width - r} y1={Y(v)} y2={Y(v)} />
            <text x={l - 5} y={Y(v) + 4} textAnchor="end">
              {number(v, yUnit)}
            </text>
          </g>
        ))}
        {ticks(x0, x1, 4).map((v) => (
          <text key={v} x={X(v)} y={height - b + 15} textAnchor="middle">
            {number(v, xUnit)}
          </text>
        ))}
        <text className="word" x={width - r} y={height - 4} textAnchor="end">
          {xName}
        </text>
        {limits.map((m) => (
          <g key={m.name}>
            <line className="limit" x1={l} x2={width - r} y1={Y(m.value)} y2={Y(m.value)} />
            <text className="word" x={width - r} y={Y(m.value) - 4} textAnchor="end">
              {m.name}
            </text>
          </g>
        ))}
        {series.map((s) => (
          <path key={s.name} d={path(s)} fill="none" stroke={s.tone} strokeWidth={1.8} strokeDasharray={s.dash} />
        ))}
        {/* Names stand above, in their curves' colours: beside curves that nearly meet they would lie on each other. */}
        {series.length > 1 &&
          series.map((s, i) => (
            <text
              key={s.name}
              className="word"
              x={l + (i * (width - l - r)) / series.length}
              y={9}
              style={{ fill: s.tone }}>
              {s.name}
            </text>
          ))}
        {marks.map((m) => (
          <g key={m.name}>
            <path d={`M${X(m.x)} ${Y(m.y) - 5}l5 5l-5 5l-5 -5Z`} fill="var(--copper)" />
            <text className="word" x={X(m.x) + 8} y={Y(m.y) + 4}>
              {m.name}
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="noprint" style={{ fontSize: 13 }}>
        <span className="quiet">{title} · </span>
        <button className="act" onClick={() => svg.current && svgToPng(svg.current, title)}>
          PNG
        </button>{' '}
        ·{' '}
        <button className="act" onClick={() => saveText(csv(), `${title}.csv`, 'text/csv')}>
          CSV
        </button>
      </figcaption>
    </figure>
  )
}
