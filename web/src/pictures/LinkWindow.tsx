/** The link between what the output needs of it and what the parts that stand on it allow. */
import type { LineUpMeta, Sheet } from '../api'
import { useWorkspace } from '../state/workspace'
import { Head } from './Head'

const HIGHEST = 'link.highest_link'
const ROW = 29

interface Bar {
  name: string
  from: number
  to: number
  tone: string
}

const all = (sheet: Sheet, key: string): number[] =>
  sheet.figures[key]?.values.filter((x): x is number => x !== null) ?? []

/** What is needed, what there is from valley to crest, and what each part allows with the margin its check asks for. */
export function linkBars(meta: LineUpMeta, sheet: Sheet): Bar[] {
  const stand = Object.entries(meta.checks)
    .filter(([key, check]) => check.demand === HIGHEST && sheet.checks[key])
    .map(([key, check]) => {
      const hold = sheet.checks[key]!.hold ?? 1
      const title = meta.figures[check.capability]?.title ?? check.capability
      const name = title.toLowerCase().replace('rated voltage', 'rating')
      return {
        name: hold === 1 ? name : `${name} / ${hold}`,
        from: 0,
        to: Math.min(...all(sheet, check.capability)) / hold,
        tone: 'var(--hold)',
      }
    })
  const valley = Math.min(...all(sheet, 'link.link_valley'))
  const crest = Math.max(...all(sheet, 'link.link_crest'))
  return [
    { name: 'needed by the output', from: 0, to: Math.max(...all(sheet, 'link.needed_valley')), tone: 'var(--slate)' },
    { name: 'link, valley to crest', from: valley, to: crest, tone: 'var(--copper)' },
    ...stand,
  ].filter((b) => Number.isFinite(b.from) && Number.isFinite(b.to))
}

export function LinkWindow() {
  const { meta, sheet } = useWorkspace()
  const bars = linkBars(meta!, sheet!)
  if (bars.length === 0) return null
  const low = Math.min(...bars.map((b) => (b.from > 0 ? b.from : b.to))) - 20
  const high = Math.max(...bars.map((b) => b.to)) + 10
  const X = (v: number) => 150 + ((Math.max(v, low) - low) / (high - low)) * 190
  return (
    <>
      <Head>Link window</Head>
      <svg
        className="plot"
        viewBox={`0 0 380 ${bars.length * ROW + 16}`}
        width="100%"
        role="img"
        aria-label="The link between what the output needs and what the parts stand">
        {bars.map((b, i) => (
          <g key={b.name}>
            <text className="word" x="144" y={26 + i * ROW} textAnchor="end">
              {b.name}
            </text>
            <rect
              x={X(b.from)}
              y={15 + i * ROW}
              width={Math.max(3, X(b.to) - X(b.from))}
              height="14"
              fill={b.tone}
              opacity={b.from > 0 ? 1 : 0.45}
            />
            <text x={Math.min(X(b.to) + 4, 338)} y={26 + i * ROW}>
              {Math.round(b.to)} V
            </text>
          </g>
        ))}
      </svg>
    </>
  )
}
