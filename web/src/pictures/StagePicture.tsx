/** What a place looks like: the stage declares its pictures, the server works them out, five forms draw them. */
import { memo, useRef } from 'react'
import { useQuery } from '@tanstack/react-query'
import { call, type Picture, type PlaceMeta } from '../api'
import { standing } from '../state/standing'
import { useSelected } from '../state/sheet'
import { useWorkspace } from '../state/workspace'
import { Exports } from '../ui/Exports'
import { Plot } from '../ui/Plot'
import { BarsPicture } from './BarsPicture'
import { Head } from './Head'
import { ScenesPicture } from './ScenesPicture'
import { TablePicture } from './TablePicture'
import { Winding } from './Winding'

/** The pictures of a place at the corner looked at; those of the former design stand until the new ones are there. */
export function usePictures(place: string, corner: number, enabled = true) {
  const { solved: design } = useWorkspace('solved')
  const id = useSelected((s) => s.sheet.corners[corner]!.id)
  return useQuery({
    queryKey: ['pictures', place, id, JSON.stringify(design)],
    queryFn: () => call<Picture[]>('pictures', { body: { design, place, corner: id } }),
    placeholderData: standing<Picture[]>(place),
    enabled,
  })
}

export const StagePicture = memo(function StagePicture({ place }: { place: PlaceMeta }) {
  const corner = useSelected((s) => s.corner)
  const pictures = usePictures(place.name, corner, place.pictures.length > 0)
  if (pictures.error) return <p className="wrong">{pictures.error.message}</p>
  return pictures.data?.map((picture) => <Drawn key={picture.title} picture={picture} />)
})

export const Drawn = memo(function Drawn({ picture }: { picture: Picture }) {
  const box = useRef<HTMLDivElement>(null)
  return (
    <div ref={box}>
      <Head>{picture.title}</Head>
      {picture.form === 'plot' && <Plot {...picture} />}
      {picture.form === 'bars' && <BarsPicture {...picture} />}
      {picture.form === 'scenes' && <ScenesPicture scenes={picture.scenes} />}
      {picture.form === 'table' && <TablePicture {...picture} />}
      {picture.form === 'winding' && <Winding card={picture.card} />}
      {picture.form !== 'winding' && picture.note && <p className="quiet small">{picture.note}</p>}
      {/* Plots have their own. */}
      {(picture.form === 'bars' || picture.form === 'winding') && (
        <p className="small">
          <Exports name={picture.title} svg={() => box.current?.querySelector<SVGSVGElement>('svg.plot')} />
        </p>
      )}
    </div>
  )
})
