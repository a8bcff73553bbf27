/** The line: the path as rhombi on one copper conductor whose thickness follows the logarithm of the current. */
import { useEffect, useRef, useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import type { LineUpMeta, PlaceMeta, Sheet } from '../api'
import { shown } from '../number'
import { at, placeVerdict, telling } from '../state/figures'
import { useWorkspace } from '../state/workspace'
import { Rhombus } from './Mark'

const W0 = 2
const W1 = 5.2
export const conductor = (amperes: number | null) => W0 + W1 * Math.log10(1 + Math.abs(amperes ?? 0))

export function Line() {
  const { meta, sheet, design, corner, project } = useWorkspace()
  const box = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(1240)
  const navigate = useNavigate()
  const open = useParams()['*']?.split('/')[1] ?? ''
  useEffect(() => {
    const element = box.current
    if (!element) return
    const watch = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width))
    watch.observe(element)
    return () => watch.disconnect()
  }, [])
  const path = meta?.places.filter((p) => p.path) ?? []
  const tall = width < 640
  const go = (place: string) => navigate(`/project/${project.id}/stages/${place}`)
  return (
    <div className={tall ? 'line tall' : 'line'} ref={box} role="navigation" aria-label="The line, source first">
      {meta &&
        sheet &&
        (tall ? (
          <Tall
            meta={meta}
            sheet={sheet}
            path={path}
            corner={corner}
            width={width}
            open={open}
            go={go}
            tell={(p) => telling(meta, sheet, design, p, corner)}
          />
        ) : (
          <Wide
            meta={meta}
            sheet={sheet}
            path={path}
            corner={corner}
            width={Math.max(width, 1000)}
            open={open}
            go={go}
            tell={(p) => telling(meta, sheet, design, p, corner)}
          />
        ))}
    </div>
  )
}

interface Drawn {
  meta: LineUpMeta
  sheet: Sheet
  path: PlaceMeta[]
  corner: number
  width: number
  open: string
  go: (place: string) => void
  tell: (place: PlaceMeta) => string
}

function joint(
  meta: LineUpMeta,
  sheet: Sheet,
  corner: number,
  index: number,
): { label: string; amperes: number | null } {
  const j = meta.joints[index]
  if (!j) return { label: '', amperes: 0 }
  const volts = shown(at(sheet.figures[j.voltage], corner), 'V', 3)
  const amperes = at(sheet.figures[j.current], corner)
  const current = shown(amperes, 'A', amperes !== null && Math.abs(amperes) < 10 ? 2 : 3)
  return {
    label: `${j.sign}${volts.number} ${volts.unit} · ${current.number} ${current.unit}${j.tail ? ` ${j.tail}` : ''}`,
    amperes,
  }
}

function Wide({ meta, sheet, path, corner, width, open, go, tell }: Drawn) {
  const margin = 66
  const step = (width - 2 * margin) / (path.length - 1)
  const x = (i: number) => margin + i * step
  const y = 40
  const short = (text: string, room: number) => (text.length > room ? `${text.slice(0, room - 1)}…` : text)
  const hung = path.map((p) =>
    meta.places.filter((a) => a.host === p.name && a.section !== 'loads' && a.section !== 'whole'),
  )
  const narrow = step < 130
  const across = narrow ? 1 : 2
  const rows = Math.max(1, ...hung.map((h) => Math.ceil(h.length / across)))
  return (
    <svg height={94 + rows * 17} viewBox={`0 0 ${width} ${94 + rows * 17}`}>
      {path.slice(1).map((p, i) => {
        const { label, amperes } = joint(meta, sheet, corner, i)
        return (
          <g key={p.name}>
            <line
              className="conductor"
              x1={x(i)}
              x2={x(i + 1)}
              y1={y}
              y2={y}
              strokeWidth={conductor(amperes)}
              data-current={amperes ?? ''}
            />
            {narrow ? (
              label.split(' · ').map((part, k) => (
                <text key={k} className="joint" x={(x(i) + x(i + 1)) / 2} y={12 + 13 * k} textAnchor="middle">
                  {part}
                </text>
              ))
            ) : (
              <text className="joint" x={(x(i) + x(i + 1)) / 2} y={18} textAnchor="middle">
                {label}
              </text>
            )}
          </g>
        )
      })}
      {path.map((p, i) => {
        const verdict = placeVerdict(meta, sheet, p.name, corner)
        const isOpen = open === p.name
        return (
          <g key={p.name}>
            <g
              className={isOpen ? 'spot open' : 'spot'}
              role="link"
              tabIndex={0}
              aria-label={`${p.title}: ${verdict}`}
              onClick={() => go(p.name)}
              onKeyDown={(e) => {
                if (e.key === 'Enter') go(p.name)
              }}
              data-place={p.name}
              data-verdict={verdict}>
              <rect x={x(i) - step / 2 + 6} y={22} width={step - 12} height={62} fill="transparent" />
              <Rhombus x={x(i)} y={y} r={isOpen ? 19 : 14} verdict={verdict} />
              <text className="stage" x={x(i)} y={72} textAnchor="middle">
                {p.title}
              </text>
              <text className="tell" x={x(i)} y={87} textAnchor="middle">
                {short(tell(p), Math.floor(step / 6.1))}
              </text>
            </g>
            {hung[i]!.map((a, k) => {
              const mark = placeVerdict(meta, sheet, a.name, corner)
              const column = k % across
              const left =
                x(i) - (hung[i]!.length > 1 && !narrow ? step / 2 - 8 : 34) + column * Math.min(78, step / 2 + 8)
              const top = 102 + Math.floor(k / across) * 17
              return (
                <g
                  key={a.name}
                  className="spot"
                  role="link"
                  tabIndex={0}
                  aria-label={`${a.title} on ${p.title}: ${mark}`}
                  onClick={() => go(a.name)}
                  onKeyDown={(e) => {
                    if (e.key === 'Enter') go(a.name)
                  }}
                  data-place={a.name}
                  data-verdict={mark}>
                  <rect x={left - 6} y={top - 8} width={step / 2 - 8} height={16} fill="transparent" />
                  <Rhombus x={left} y={top} r={4.6} verdict={mark} />
                  <text className={open === a.name ? 'hang open' : 'hang'} x={left + 9} y={top + 4}>
                    {a.title.toLowerCase()}
                  </text>
                </g>
              )
            })}
          </g>
        )
      })}
    </svg>
  )
}

function Tall({ meta, sheet, path, corner, width, open, go, tell }: Drawn) {
  const step = 46
  return (
    <svg height={path.length * step + 8} viewBox={`0 0 ${width} ${path.length * step + 8}`}>
      {path.slice(1).map((p, i) => {
        const { label, amperes } = joint(meta, sheet, corner, i)
        return (
          <g key={p.name}>
            <line
              className="conductor"
              x1={26}
              x2={26}
              y1={24 + i * step}
              y2={24 + (i + 1) * step}
              strokeWidth={conductor(amperes)}
            />
            <text className="joint" x={width - 10} y={24 + (i + 0.5) * step + 4} textAnchor="end">
              {label}
            </text>
          </g>
        )
      })}
      {path.map((p, i) =>
        meta.places
          .filter((a) => a.host === p.name && a.section !== 'loads' && a.section !== 'whole')
          .map((a, k) => (
            <g
              key={a.name}
              className="spot"
              role="link"
              tabIndex={0}
              aria-label={`${a.title} on ${p.title}`}
              onClick={() => go(a.name)}
              onKeyDown={(e) => {
                if (e.key === 'Enter') go(a.name)
              }}>
              <rect x={150 + k * 78} y={8 + i * step} width={74} height={20} fill="transparent" />
              <Rhombus x={156 + k * 78} y={18 + i * step} r={4.6} verdict={placeVerdict(meta, sheet, a.name, corner)} />
              <text className="hang" x={164 + k * 78} y={22 + i * step}>
                {a.title.toLowerCase()}
              </text>
            </g>
          )),
      )}
      {path.map((p, i) => (
        <g
          key={p.name}
          className="spot"
          role="link"
          tabIndex={0}
          aria-label={p.title}
          onClick={() => go(p.name)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') go(p.name)
          }}>
          <rect x={0} y={4 + i * step} width={146} height={40} fill="transparent" />
          <Rhombus
            x={26}
            y={24 + i * step}
            r={open === p.name ? 15 : 11}
            verdict={placeVerdict(meta, sheet, p.name, corner)}
          />
          <text x={52} y={22 + i * step}>
            {p.title}
          </text>
          <text className="tell" x={52} y={37 + i * step}>
            {tell(p)}
          </text>
        </g>
      ))}
    </svg>
  )
}
