/** The whole line-up's circuit as one sheet: zoomed on the screen, fitted on paper, a part opens its figures. */
import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { call } from '../../api'
import type { WholeDrawn } from '../../api/schema'
import { Drawing } from '../../schematic/Drawing'
import { useSelected } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Exports } from '../../ui/Exports'
import { Scroll } from '../../ui/Scroll'

const NONE: string[] = []
const ZOOMS = { 1: 'whole sheet', 1.5: '× 1.5', 2: '× 2', 3: '× 3', 6: '× 6' }

export function WholeCircuit() {
  const corner = useSelected((s) => s.sheet.corners[s.corner]!)
  const { solved: design } = useWorkspace('solved')
  const [zoom, setZoom] = useState(1)
  const svg = useRef<SVGSVGElement>(null)
  const navigate = useNavigate()
  const { data } = useQuery({
    queryKey: ['circuit', corner.id, JSON.stringify(design)],
    queryFn: () => call<WholeDrawn>('circuit', { body: { design, corner: corner.id } }),
    placeholderData: (old) => old,
  })
  if (!data) return null
  const title = `${design?.title ?? ''} circuit`
  return (
    <figure data-testid="whole-circuit" className="whole" style={{ gridColumn: '1 / -1' }}>
      <figcaption>
        <b>From source to load</b>
        <label className="noprint">
          Zoom{' '}
          <select value={String(zoom)} onChange={(e) => setZoom(Number(e.target.value))} aria-label="Zoom of the sheet">
            {Object.entries(ZOOMS).map(([times, name]) => (
              <option key={times} value={times}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <Exports name={title} svg={() => svg.current} />
      </figcaption>
      <Scroll of={title}>
        <div style={{ width: `${zoom * 100}%` }} className="zoomed">
          <Drawing
            svg={svg}
            fits
            drawn={{ ...data, grounds: [], nodes: [], looks: [], beside: [] }}
            frames={data.frames}
            tags={data.tags}
            probes={NONE}
            open={(part) =>
              void navigate(`../stages/${part.name.split('.')[0]!}${part.figure ? `?figure=${part.figure}` : ''}`, {
                relative: 'path',
              })
            }
            chosen=""
            label={title}
          />
        </div>
      </Scroll>
    </figure>
  )
}
