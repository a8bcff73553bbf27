/** The bank's voltage while it is precharged, with the moment of closing. */
import { text } from '../number'
import { useWorkspace } from '../state/workspace'
import { Plot } from '../ui/Plot'
import { Head } from './Head'

export function PrechargeCurve() {
  const { sheet } = useWorkspace()
  const v = (key: string) => sheet!.figures[key]?.values[0] ?? NaN
  const [volts, tau, close, x] = [
    v('precharge.resistor_voltage'),
    v('precharge.time_constant'),
    v('precharge.precharge_time'),
    v('precharge.closing_fraction'),
  ]
  const t = Array.from({ length: 61 }, (_, i) => (i / 60) * 6 * tau)
  return (
    <>
      <Head>Precharge of the bank</Head>
      <Plot
        title="Bank voltage while it is precharged"
        xName="time"
        xUnit="s"
        yUnit="V"
        yFrom={0}
        series={[{ name: 'bank', x: t, y: t.map((s) => volts * (1 - Math.exp(-s / tau))), tone: 'var(--copper)' }]}
        limits={[{ value: volts, name: 'source' }]}
        marks={[
          { x: close, y: volts * x, name: `close at ${text(close, 's')}` },
          { x: tau / 2, y: volts * (1 - Math.exp(-0.5)), name: 'test at τ/2' },
        ]}
      />
    </>
  )
}
