/** The brief: source, output, load list with suitability, and the sums that "full load" and "surge" mean. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { memo } from 'react'
import { call } from '../../api'
import type { Sum } from '../../api/schema'
import { Drawn, usePictures } from '../../pictures/StagePicture'
import { at } from '../../state/figures'
import { addedLoad } from '../../state/moves'
import { useSelected } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { ChoiceList, Given } from '../../ui/Given'
import { numbered } from '../../ui/Number'
import { LoadTable, type Suitability } from './LoadTable'
import { Waveforms } from './Waveforms'

export function Brief() {
  const { edit } = useWorkspace('edit')
  const fit = useQuery({
    queryKey: ['suitability'],
    queryFn: () => call<Suitability>('suitability'),
    staleTime: Infinity,
  })
  return (
    <main className="page">
      <div className="split">
        <section>
          <h2 className="cap">
            What it shall feed <span className="filter">watts, power factor and start of every appliance</span>
          </h2>
          <LoadTable fit={fit.data} />
          <p style={{ marginTop: 12 }}>
            <Button variant={'copper' as never} onClick={() => edit('Added a load', addedLoad)}>
              Add a load
            </Button>
          </p>
          <LoadBars />
          <Waveforms fit={fit.data ?? {}} />
        </section>
        <aside>
          <h2 className="cap">Sums</h2>
          <Sums group="sums" />
          {(['source', 'output', 'surroundings'] as const).map((group) => (
            <Fields key={group} group={group} />
          ))}
        </aside>
      </div>
    </main>
  )
}

export const TITLES = { source: 'Source', output: 'Output', surroundings: 'Surroundings' }

/** What the stages of the line-up ask the brief for, and what they show beside it. */
export function Fields({ group }: { group: keyof typeof TITLES }) {
  const meta = useSelected((s) => s.meta)
  const mine = meta.fields.filter((f) => f.group === group)
  if (mine.length === 0) return null
  return (
    <>
      <h2 className="cap" style={{ marginTop: 22 }}>
        {TITLES[group]}
      </h2>
      {mine.map(({ key }) =>
        meta.choices[key] ? (
          <div className="row2 wide" key={key}>
            <label htmlFor={key}>{meta.choices[key].title}</label>
            <ChoiceList id={key} choice={key} />
          </div>
        ) : (
          <Given key={key} figure={key} />
        ),
      )}
      <Sums group={group} />
    </>
  )
}

function Sums({ group }: { group: string }) {
  const meta = useSelected((s) => s.meta)
  const mine = meta.sums.filter((s) => s.group === group)
  if (mine.length === 0) return null
  return (
    <table className="table">
      <tbody>
        {mine.map((sum) => (
          <SumRow key={sum.key + sum.corner} sum={sum} />
        ))}
      </tbody>
    </table>
  )
}

const SumRow = memo(function SumRow({ sum: { key, title, corner } }: { sum: Sum }) {
  const { base } = useWorkspace('base')
  return (
    <tr>
      <td>
        <Link
          className="act"
          style={{ color: 'inherit', fontWeight: 400 }}
          to={`${base}/stages/${key.split('.')[0]}?figure=${key}`}>
          {title}
        </Link>
      </td>
      <td className="r" data-sum={key}>
        <SumValue of={key} corner={corner} />
      </td>
    </tr>
  )
})

function SumValue({ of, corner }: { of: string; corner: number }) {
  const figure = useSelected((s) => s.sheet.figures[of])
  const unit = useSelected((s) => s.meta.figures[of]!.unit)
  return numbered(at(figure, corner), unit, 4, figure?.pinned)
}

/** The load list as bars: the picture of the place on which the loads hang. */
function LoadBars() {
  const meta = useSelected((s) => s.meta)
  const corner = useSelected((s) => s.corner)
  const host = meta.places.find((p) => p.section === 'loads')?.host
  const pictures = usePictures(host ?? '', corner, !!host)
  return pictures.data?.map((picture) => <Drawn key={picture.title} picture={picture} />)
}
