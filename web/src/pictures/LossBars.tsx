/** Where the power goes, stage by stage, and efficiency against load. */
import { useQuery } from '@tanstack/react-query'
import { call, type Curve } from '../api'
import { text } from '../number'
import { at } from '../state/figures'
import { useWorkspace } from '../state/workspace'
import { Plot } from '../ui/Plot'
import { Head } from './Head'

export function LossBars() {
  const { meta, sheet, corner, design } = useWorkspace()
  const curves = useQuery({
    queryKey: ['curves', JSON.stringify(design)],
    queryFn: () => call<{ efficiency: Curve }>('curves', { body: { design } }),
    placeholderData: (old) => old,
  })
  const parts = meta!.places
    .map((p) => ({ title: p.title, host: p.host, loss: at(sheet!.figures[`${p.name}.loss`], corner) ?? 0 }))
    .filter((p) => p.loss > 0.005)
    .sort((a, b) => b.loss - a.loss)
  const most = Math.max(...parts.map((p) => p.loss), 1e-9)
  return (
    <>
      <Head>Where the power goes, {sheet!.corners[corner]?.title}</Head>
      <svg
        className="plot"
        viewBox={`0 0 380 ${parts.length * 20 + 6}`}
        width="100%"
        role="img"
        aria-label="Loss by stage">
        {parts.map((p, i) => (
          <g key={i}>
            <text className="word" x="112" y={15 + i * 20} textAnchor="end">
              {p.title}
            </text>
            <rect x="118" y={5 + i * 20} width={Math.max(1, (p.loss / most) * 190)} height="12" fill="var(--copper)" />
            <text x={122 + (p.loss / most) * 190} y={15 + i * 20}>
              {text(p.loss, 'W')}
            </text>
          </g>
        ))}
      </svg>
      {curves.data && (
        <Plot
          title="Efficiency against load, build held"
          xName="load"
          xUnit=""
          yUnit=""
          yFrom={0.6}
          yTo={1}
          series={Object.entries(curves.data.efficiency.series).map(([name, y], i) => ({
            name,
            x: curves.data.efficiency.points,
            y,
            tone: ['var(--fail)', 'var(--copper)', 'var(--slate)'][i]!,
          }))}
        />
      )}
    </>
  )
}
