/** A schematic: parts with their values, nodes that can be probed; the arrows walk the parts, Enter opens one. */
import { memo, type KeyboardEvent, type RefObject } from 'react'
import type { Beside, Drawn, DrawnPart, Frame, Reading, ReadingsTold, Tag } from '../api/schema'
import { text } from '../number'
import { Rhombus } from '../ui/Mark'
import { besideNode } from './beside'
import { HALF, STEP, symbol } from './symbols'

const ROOM = { x: 40, y: 46 }
/** What the words beside the last upright part need. */
const WORDS = 92
/** A box for what is ordered and carries none of the circuit's current at its least, what lies between two, and what a letter in it takes. */
const BOX = { width: 172, height: 40, gap: 10, letter: 8.8 }
/** And the name of a stage above its circuit. */
const TITLE = 44
type Point = [number, number]
/** What is opened: a part, or what stands beside them. */
export type Opened = Pick<DrawnPart, 'name' | 'figure'>
/** A node's mean, or where it has as good as none its rms with the sign of an alternating one. */
const volts = (r?: Reading): string =>
  !r ? '' : Math.abs(r.mean) > 0.02 * r.rms ? text(r.mean, 'V') : `~ ${text(r.rms, 'V')}`
const at = ([x, y]: readonly [number, number]): Point => [x * STEP.x, y * STEP.y]
const middleOf = (p: DrawnPart): Point => at([(p.start[0] + p.end[0]) / 2, (p.start[1] + p.end[1]) / 2])

/** What a button of the drawing does on Enter and on the space bar. */
const pressed = (act: () => void) => (e: KeyboardEvent) => {
  if (e.key !== 'Enter' && e.key !== ' ') return
  e.preventDefault()
  act()
}

interface Props {
  drawn: Drawn
  /** What is probed: "v out", "i diode". */
  probes: string[]
  /** What happens to a node that is chosen; on paper nothing. */
  probe?: (what: string) => void
  open: (part: Opened) => void
  chosen: string
  label: string
  svg: RefObject<SVGSVGElement | null>
  /** What stands at the nodes and flows through the parts, where that is asked for. */
  readings?: ReadingsTold
  /** Drawn as small as its place is, as on paper: what is wide is not scrolled. */
  fits?: boolean
  /** On the sheet of the whole line-up: which part of it is which stage's, and where a row goes on. */
  frames?: readonly Frame[]
  tags?: readonly Tag[]
}

export const Drawing = memo(function Drawing({
  drawn,
  probes,
  probe,
  open,
  chosen,
  label,
  svg,
  readings,
  fits,
  frames,
  tags,
}: Props) {
  const [room, above] = [tags?.length ? WORDS + 50 : 0, frames ? TITLE : 0]
  const [left, top] = [drawn.left * STEP.x - ROOM.x - room, drawn.top * STEP.y - ROOM.y - above]
  const width = (drawn.right - drawn.left) * STEP.x + 2 * ROOM.x + WORDS + room
  const boxes = boxed(drawn.beside, width)
  const under = (drawn.bottom + 1) * STEP.y + 8
  const height = (drawn.bottom - drawn.top) * STEP.y + 2 * ROOM.y - 10 + above + boxes.height
  return (
    <svg
      ref={svg}
      className="plot schematic"
      viewBox={`${left} ${top} ${width} ${height}`}
      style={{ maxWidth: width * 1.1, minWidth: fits ? undefined : width * 0.6 }}
      width="100%"
      role="group"
      aria-label={label}
      onKeyDown={(e) => walk(e, drawn)}>
      {frames?.map((f) => {
        const [[x, y], [right]] = [at([f.left, f.top]), at([f.right, f.bottom])]
        return (
          <text key={f.place} className="stage" x={(x + right) / 2} y={y - 58} textAnchor="middle">
            {f.title}
          </text>
        )
      })}
      {tags?.map((t) => {
        const [x, y] = at(t.at as Point)
        return (
          <text key={t.text} className="tag" x={t.ends ? x + 6 : x - 6} y={y + 4} textAnchor={t.ends ? 'start' : 'end'}>
            {t.text}
          </text>
        )
      })}
      {drawn.wires.map((wire, i) => (
        <polyline key={i} className="wire" points={wire.map((p) => at(p as Point).join(',')).join(' ')} />
      ))}
      {drawn.parts.map((part) =>
        partDrawn(part, open, chosen === part.name, readings?.parts.find((r) => r.name === part.name)?.rms),
      )}
      {drawn.dots.map((p) => (
        <circle key={p.join()} className="dot" cx={at(p)[0]} cy={at(p)[1]} r={2.8} />
      ))}
      {drawn.grounds.map((p) => {
        const [x, y] = at(p)
        return <path key={p.join()} className="wire" d={`M${x} ${y}v10m-9 0h18m-15 4h12m-9 4h6`} />
      })}
      {boxes.list.map((box) => boxDrawn(box, left + ROOM.x - 13, under, open))}
      {drawn.nodes.map((node) => {
        const [x, y] = at(node.at)
        const on = probes.includes(`v ${node.name}`)
        if (!probe) return null
        const toggle = () => probe(`v ${node.name}`)
        const { name, reading } = besideNode(node.at, node.named, drawn)
        return (
          <g key={node.name} className={on ? 'node on' : 'node'} onClick={toggle}>
            <g
              role="button"
              tabIndex={0}
              aria-pressed={on}
              aria-label={`Probe the voltage of ${node.name}`}
              onKeyDown={pressed(toggle)}>
              <circle className="hit" cx={x} cy={y} r={12} />
              <circle className="ring" cx={x} cy={y} r={5} />
            </g>
            {node.named && (
              <text className="word" x={x + name.x} y={y + name.y} textAnchor={name.anchor}>
                {node.name}
              </text>
            )}
            {readings && (
              <text className="reading" x={x + reading.x} y={y + reading.y} textAnchor={reading.anchor}>
                {volts(readings.nodes.find((r) => r.name === node.name))}
              </text>
            )}
          </g>
        )
      })}
    </svg>
  )
})

type Boxed = Beside & { x: number; y: number; width: number; said: string }

/** The boxes in rows as broad as the drawing, each as broad as its words. */
function boxed(rows: readonly Beside[], most: number): { list: Boxed[]; height: number } {
  let [x, y] = [0, 0]
  const list = rows.map((row) => {
    const count = row.quantity && row.quantity > 1 ? `${text(row.quantity, '', 3)} × ` : ''
    const said = count + row.text
    const width = Math.min(
      most - ROOM.x,
      Math.max(BOX.width, Math.max(said.length, row.title.length) * BOX.letter + 16),
    )
    if (x > 0 && x + width > most - ROOM.x) [x, y] = [0, y + BOX.height + BOX.gap]
    const box = { ...row, x, y, width, said }
    x += width + BOX.gap
    return box
  })
  return { list, height: rows.length ? y + BOX.height + BOX.gap : 0 }
}

/** What is bought for the stage and is no element of its circuit: a box beside it. */
function boxDrawn(box: Boxed, left: number, top: number, open: (part: Opened) => void) {
  const [x, y] = [left + box.x, top + box.y]
  const act = () => open({ name: box.title, figure: box.figure })
  return (
    <g key={box.title} className="part beside" onClick={act}>
      <rect
        role="button"
        tabIndex={0}
        aria-label={`${box.title}, ${box.said}, beside the circuit`}
        x={x}
        y={y}
        width={box.width}
        height={BOX.height}
        rx={2}
        onKeyDown={pressed(act)}
      />
      <text className="word" x={x + 8} y={y + 16} textAnchor="start">
        {box.title}
      </text>
      <text className="amount" x={x + 8} y={y + 32} textAnchor="start">
        {box.said}
      </text>
    </g>
  )
}

/** A part as markup, not as a component of its own: an edit draws the whole circuit in one go. */
function partDrawn(part: DrawnPart, open: (part: Opened) => void, chosen: boolean, amperes?: number) {
  const [[x1, y1], [x2, y2], [x, y]] = [at(part.start), at(part.end), middleOf(part)]
  if (part.kind === 'wire')
    return (
      <path key={part.name} className="wire" d={`M${x1} ${y1}L${x2} ${y2}`}>
        <title>{part.title}</title>
      </path>
    )
  const angle = (Math.atan2(y2 - y1, x2 - x1) * 180) / Math.PI
  const length = Math.hypot(x2 - x1, y2 - y1)
  const lead = length / 2 - HALF
  const flat = Math.abs(y2 - y1) < Math.abs(x2 - x1)
  // Beside an upright part its words stand on the right, above a lying one over it.
  const words = flat ? { x, y: y - 13, anchor: 'middle' as const } : { x: x + 19, y: y - 2, anchor: 'start' as const }
  const lines = flat ? [-15, 0] : [-1, 14]
  // What is read out begins as what is seen.
  const seen = [part.title, part.text, amperes === undefined ? '' : text(amperes, 'A')].filter(Boolean).join(' ')
  const said = [seen, `between ${part.nodes.map((n) => (n === '0' ? 'ground' : n)).join(' and ')}`, part.verdict]
  return (
    <g
      key={part.name}
      className={`part${part.neighbour ? ' neighbour' : ''}${chosen ? ' chosen' : ''}`}
      onClick={() => open(part)}>
      {/* The words stand beside the button: its name says them, with what they mean. */}
      <g
        role="button"
        tabIndex={0}
        data-part={part.name}
        aria-label={said.filter(Boolean).join(', ')}
        onKeyDown={pressed(() => open(part))}>
        <rect
          className="hit"
          x={Math.min(x1, x2) - 13}
          y={Math.min(y1, y2) - 13}
          width={Math.abs(x2 - x1) + 26}
          height={Math.abs(y2 - y1) + 26}
        />
        <g className="symbol" transform={`translate(${x} ${y}) rotate(${angle})`}>
          <path d={`M${-length / 2} 0h${lead}M${HALF} 0h${lead}`} />
          {symbol(part.kind)}
        </g>
        {part.verdict && part.verdict !== 'holds' && (
          <Rhombus x={flat ? x + 26 : x - 22} y={flat ? y + 12 : y} r={6} verdict={part.verdict} />
        )}
      </g>
      <text className="word" x={words.x} y={words.y + lines[0]!} textAnchor={words.anchor}>
        {part.title}
      </text>
      <text className="amount" x={words.x} y={words.y + lines[1]!} textAnchor={words.anchor}>
        {part.text}
      </text>
      {amperes !== undefined && (
        <text className="reading" x={words.x} y={words.y + (flat ? 36 : 28)} textAnchor={words.anchor}>
          {text(amperes, 'A')}
        </text>
      )}
    </g>
  )
}

const WAYS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }

/** From the part that has the focus to the nearest one in the direction of an arrow. */
function walk(e: KeyboardEvent<SVGSVGElement>, drawn: Drawn): void {
  const way = WAYS[e.key]
  const part = drawn.parts.find((p) => p.name === (e.target as Element).getAttribute('data-part'))
  if (!way || !part) return
  e.preventDefault()
  const [x, y] = middleOf(part)
  // The nearest part in that direction, one that lies aside counting as farther.
  let best: [string, number] = ['', Infinity]
  for (const other of drawn.parts) {
    const [dx, dy] = [middleOf(other)[0] - x, middleOf(other)[1] - y]
    const along = dx * way[0] + dy * way[1]
    if (other.name === part.name || other.kind === 'wire' || along <= 1) continue
    const far = along + 2 * Math.abs(dx * way[1] + dy * way[0])
    if (far < best[1]) best = [other.name, far]
  }
  e.currentTarget.querySelector<SVGGElement>(`[data-part="${best[0]}"]`)?.focus()
}
