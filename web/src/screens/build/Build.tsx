/** What to order, to wind, to set and to try: parts list with prices, winding card, circuits, thresholds, steps on the bench; as page, print, CSV and JSON. */
import { lazy, Suspense } from 'react'
import { useQuery } from '@tanstack/react-query'
import { call, type BuildPack } from '../../api'
import { useSheet } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'
import { Procedures, Thresholds } from './BenchSheet'
import { Hold } from './Hold'
import { PartsList } from './PartsList'
import { WindingSheet } from './WindingSheet'

const CircuitSheet = lazy(() => import('./CircuitSheet'))

export default function Build() {
  const { sheet } = useSheet()
  const { design } = useWorkspace('design')
  const pack = useQuery({
    queryKey: ['build', JSON.stringify(design)],
    queryFn: () => call<BuildPack>('build', { body: { design } }),
    placeholderData: (old) => old,
  })
  if (pack.error) return <p className="wait">{pack.error.message}</p>
  if (!pack.data) return <p className="wait">Gathering the parts …</p>
  const fails = Object.values(sheet.checks).filter((c) => c.verdict === 'fails').length
  return (
    <main className="page cards">
      {fails > 0 && (
        <p className="caution">
          <b>
            {fails} {fails === 1 ? 'check fails' : 'checks fail'}.
          </b>{' '}
          Do not order before they are settled: see the hollow rhombi on the line.
        </p>
      )}
      <Hold />
      <PartsList pack={pack.data} />
      {pack.data.windings.map((card) => (
        <WindingSheet key={card.place} card={card} />
      ))}
      <Suspense fallback={null}>
        <CircuitSheet />
      </Suspense>
      <Thresholds rows={pack.data.thresholds} />
      <Procedures told={pack.data.procedures} />
    </main>
  )
}
