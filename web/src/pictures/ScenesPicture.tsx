/** Several ways that it may go: one is chosen; its plots, under them what was switched over the same time, and how it ends. */
import { scaleLinear } from 'd3-scale'
import { useState } from 'react'
import type { Scene, Scenes } from '../api/schema'
import { Mark } from '../ui/Mark'
import { Plot, PLOT } from '../ui/Plot'

export function ScenesPicture({ scenes }: Pick<Scenes, 'scenes'>) {
  const [chosen, setChosen] = useState(scenes[0]?.name ?? '')
  const scene = scenes.find((s) => s.name === chosen) ?? scenes[0]
  if (!scene) return <p className="quiet">Nothing to play: a figure it needs is unknown.</p>
  return (
    <div className="scenes">
      <label className="row2 wide">
        What happens
        <select value={scene.name} onChange={(e) => setChosen(e.target.value)}>
          {scenes.map((s) => (
            <option key={s.name}>{s.name}</option>
          ))}
        </select>
      </label>
      <p role="status" className={scene.good ? undefined : 'wrong'}>
        <Mark verdict={scene.good ? 'holds' : 'fails'} size={14} /> {scene.said}
      </p>
      {scene.plots.map((plot, i) => (
        <Plot
          key={plot.y_unit}
          {...plot}
          title={`${scene.name}: ${plot.series[0]?.name ?? ''}`}
          height={i === 0 ? 170 : 110}
        />
      ))}
      {scene.tracks.length > 0 && <Tracks scene={scene} />}
    </div>
  )
}

const ROW = 16

function Tracks({ scene }: { scene: Scene }) {
  const times = scene.plots.flatMap((p) => p.series.flatMap((s) => s.x)).filter((x): x is number => x !== null)
  const X = scaleLinear([Math.min(...times), Math.max(...times)], [PLOT.left, PLOT.width - PLOT.right]).clamp(true)
  const { tracks } = scene
  const label = tracks.map((t) => `${t.name}: ${t.spans.length ? 'closed for a while' : 'open'}`).join('; ')
  return (
    <svg
      className="plot tracks"
      viewBox={`0 0 ${PLOT.width + 8} ${tracks.length * 2 * ROW}`}
      width="100%"
      role="img"
      aria-label={label}>
      {tracks.map((track, i) => (
        <g key={track.name} data-track={track.name}>
          <text className="word" x={PLOT.left} y={i * 2 * ROW + 11}>
            {track.name}
          </text>
          <line
            className="axis"
            x1={PLOT.left}
            x2={PLOT.width - PLOT.right}
            y1={i * 2 * ROW + 21}
            y2={i * 2 * ROW + 21}
          />
          {track.spans.map(([from, to]) => (
            <rect
              key={from}
              x={X(from)}
              y={i * 2 * ROW + 16}
              width={Math.max(X(to) - X(from), 1.5)}
              height={10}
              fill={track.name === 'fault' ? 'var(--fail)' : 'var(--copper)'}
            />
          ))}
        </g>
      ))}
    </svg>
  )
}
