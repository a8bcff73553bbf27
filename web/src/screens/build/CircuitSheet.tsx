/** The circuits of all stages as one sheet to print: each part lettered with its value, a part opens its stage. */
import { useQueries } from '@tanstack/react-query'
import { useRef } from 'react'
import { useNavigate } from 'react-router'
import { call, type PlaceMeta } from '../../api'
import type { Drawn } from '../../api/schema'
import { Drawing } from '../../schematic/Drawing'
import { useSelected } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Exports } from '../../ui/Exports'
import { Scroll } from '../../ui/Scroll'
import { WholeCircuit } from './WholeCircuit'

export default function CircuitSheet() {
  const places = useSelected((s) => s.meta).places.filter((p) => p.schematic)
  const corner = useSelected((s) => s.sheet.corners[s.corner]!)
  const { solved: design } = useWorkspace('solved')
  const found = useQueries({
    queries: places.map((place) => ({
      queryKey: ['schematic', place.name, corner.id, JSON.stringify(design)],
      queryFn: () => call<Drawn>('schematic', { body: { design, place: place.name, corner: corner.id } }),
    })),
  })
  if (places.length === 0) return null
  return (
    <section data-testid="circuits">
      <h2 className="cap">
        Circuits <span className="filter">values at {corner.title}; grey is joined here and bought elsewhere</span>
      </h2>
      <div className="circuits">
        <WholeCircuit />
        {places.map((place, k) => found[k]?.data && <Circuit key={place.name} place={place} drawn={found[k].data} />)}
      </div>
    </section>
  )
}

const NONE: string[] = []
/** Steps of the grid beyond which a circuit has the whole breadth of the sheet. */
const WIDE = 24

function Circuit({ place, drawn }: { place: PlaceMeta; drawn: Drawn }) {
  const svg = useRef<SVGSVGElement>(null)
  const navigate = useNavigate()
  return (
    <figure style={drawn.right - drawn.left > WIDE ? { gridColumn: '1 / -1' } : undefined}>
      <figcaption>
        <b>{place.title}</b> <Exports name={`${place.title} circuit`} svg={() => svg.current} />
      </figcaption>
      <Scroll of={`Circuit of ${place.title}`}>
        <Drawing
          svg={svg}
          fits
          drawn={drawn}
          probes={NONE}
          open={(part) =>
            void navigate(`../stages/${place.name}${part.figure ? `?figure=${part.figure}` : ''}`, { relative: 'path' })
          }
          chosen=""
          label={`Circuit of ${place.title}`}
        />
      </Scroll>
    </figure>
  )
}
