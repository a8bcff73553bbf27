/** The brief: source, output, load list with suitability, and the sums that "full load" and "surge" mean. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { call, type Sheet } from '../../api'
import { at } from '../../state/figures'
import { addedLoad } from '../../state/moves'
import { useWorkspace } from '../../state/workspace'
import { ChoiceList, Given } from '../../ui/Given'
import { Num } from '../../ui/Number'
import { LoadTable, type Suitability } from './LoadTable'
import { Waveforms } from './Waveforms'

const SOURCE = ['battery.cells', 'battery.capacity', 'battery.cell_resistance', 'input.cable_length']
const OUTPUT = [
  'output.rated_output_voltage',
  'output.output_frequency',
  'output.output_voltage_tolerance',
  'output.thd_limit',
]
/** Figure, what it is called here, and the corner that it is read at where it differs from corner to corner. */
const SUMS: [string, string, string?][] = [
  ['output.rated_active_power', 'Continuous, active'],
  ['output.rated_apparent_power', 'Continuous, apparent'],
  ['output.arithmetic_apparent_power', 'Plain sum of VA (upper bound)'],
  ['output.surge_apparent_power', 'Start with the highest VA'],
  ['output.surge_time', 'for', 'lowest_surge'],
  ['output.surge_active_power', 'Start with the most watts'],
  ['output.surge_time', 'for', 'lowest_surge_watts'],
]
const SURROUNDINGS = ['output.ambient_temperature']

const cornerIndex = (sheet: Sheet, id: string) =>
  Math.max(
    0,
    sheet.corners.findIndex((c) => c.id === id),
  )

export function Brief() {
  const { edit } = useWorkspace()
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
          <Waveforms fit={fit.data ?? {}} />
        </section>
        <aside>
          <h2 className="cap">Sums</h2>
          <Sums />
          <h2 className="cap" style={{ marginTop: 22 }}>
            Source
          </h2>
          <div className="row2 wide">
            <label htmlFor="chemistry">Chemistry</label>
            <ChoiceList id="chemistry" choice="battery.chemistry" />
          </div>
          {SOURCE.map((key) => (
            <Given key={key} figure={key} />
          ))}
          <RunTime />
          <h2 className="cap" style={{ marginTop: 22 }}>
            Output
          </h2>
          {OUTPUT.map((key) => (
            <Given key={key} figure={key} />
          ))}
          <h2 className="cap" style={{ marginTop: 22 }}>
            Surroundings
          </h2>
          {SURROUNDINGS.map((key) => (
            <Given key={key} figure={key} />
          ))}
        </aside>
      </div>
    </main>
  )
}

function Sums() {
  const { meta, sheet, project } = useWorkspace()
  return (
    <table className="table">
      <tbody>
        {SUMS.map(([key, name, corner]) => (
          <tr key={key + (corner ?? '')}>
            <td>
              <Link
                className="act"
                style={{ color: 'inherit', fontWeight: 400 }}
                to={`/project/${project.id}/stages/output?figure=${key}`}>
                {name}
              </Link>
            </td>
            <td className="r" data-sum={key}>
              <Num
                value={at(sheet!.figures[key], corner ? cornerIndex(sheet!, corner) : 0)}
                unit={meta!.figures[key]!.unit}
                digits={4}
                pinned={sheet!.figures[key]?.pinned}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function RunTime() {
  const { sheet } = useWorkspace()
  const lasts = (corner: string) => at(sheet!.figures['battery.run_time'], cornerIndex(sheet!, corner))
  return (
    <p className="quiet small">
      Lasts <Num value={lasts('nominal_full')} unit="s" /> at full load, <Num value={lasts('nominal_none')} unit="s" />{' '}
      idling.
    </p>
  )
}
