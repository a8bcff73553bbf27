/** Duty and link over the battery window, with the build held. */
import { useQuery } from '@tanstack/react-query'
import { call, type Curve } from '../api'
import { at } from '../state/figures'
import { useWorkspace } from '../state/workspace'
import { Plot } from '../ui/Plot'
import { Head } from './Head'

export function DutyCurve() {
  const { design, sheet, corner } = useWorkspace()
  const curves = useQuery({
    queryKey: ['curves', JSON.stringify(design)],
    queryFn: () => call<{ duty: Curve; link: Curve }>('curves', { body: { design } }),
    placeholderData: (old) => old,
  })
  if (!curves.data) return null
  const { duty, link } = curves.data
  const limit = sheet!.figures['oscillator.duty_limit']?.values[0] ?? 1
  const v = at(sheet!.figures['battery.terminal_voltage'], corner)
  const d = at(sheet!.figures['front.total_duty'], corner)
  return (
    <>
      <Head>Duty and link over the battery window</Head>
      <Plot
        title="Total duty at full load, build held"
        xName="source voltage"
        xUnit="V"
        yUnit=""
        series={[{ name: 'total duty', x: duty.points, y: duty.series['front.total_duty']!, tone: 'var(--copper)' }]}
        limits={[{ value: limit, name: 'greatest duty' }]}
        marks={v !== null && d !== null ? [{ x: v, y: d, name: 'this corner' }] : []}
        height={180}
      />
      <Plot
        title="Link at full load, build held"
        xName="source voltage"
        xUnit="V"
        yUnit="V"
        series={[
          {
            name: 'within reach',
            x: link.points,
            y: link.series['rectifier.reachable_voltage']!,
            tone: 'var(--slate)',
            dash: '4 3',
          },
          { name: 'link', x: link.points, y: link.series['link.link_voltage']!, tone: 'var(--copper)' },
        ]}
        height={180}
      />
    </>
  )
}
