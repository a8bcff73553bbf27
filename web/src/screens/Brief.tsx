/** The brief: source, output, load list with suitability, and the sums that "full load" and "surge" mean. */
import { Button } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { call } from '../api'
import { at } from '../state/figures'
import { useWorkspace } from '../state/workspace'
import { Entry } from '../ui/Entry'
import { Mark } from '../ui/Mark'
import { Num } from '../ui/Number'

const SOURCE = ['battery.cells', 'battery.capacity', 'battery.cell_resistance', 'input.cable_length']
const OUTPUT = [
  'output.rated_output_voltage',
  'output.output_frequency',
  'output.output_voltage_tolerance',
  'output.thd_limit',
]
const SUMS: [string, string][] = [
  ['output.rated_active_power', 'Continuous, active'],
  ['output.rated_apparent_power', 'Continuous, apparent'],
  ['output.arithmetic_apparent_power', 'Plain sum of VA (upper bound)'],
  ['output.surge_apparent_power', 'Worst start, apparent'],
  ['output.surge_active_power', 'Worst start, active'],
  ['output.surge_time', 'for'],
]

export function Brief() {
  const { meta, sheet, design, edit, project } = useWorkspace()
  const fit = useQuery({
    queryKey: ['suitability'],
    queryFn: () => call<Record<string, Record<string, string>>>('suitability'),
    staleTime: Infinity,
  })
  const given = (key: string) => {
    const f = meta!.figures[key]!
    return (
      <div className="row2" key={key}>
        <Entry
          id={key}
          label={f.title}
          note={f.sentence}
          value={sheet!.figures[key]?.values[0] ?? null}
          unit={f.unit}
          onValue={(v) => edit(f.title, (d) => ({ ...d, givens: { ...d.givens, [key]: v } }))}
        />
      </div>
    )
  }
  const chemistry = meta!.choices['battery.chemistry']!
  const add = () =>
    edit('Added a load', (d) => {
      const n = Math.max(0, ...d.loads.map((l) => Number(l.place.slice(5)))) + 1
      return {
        ...d,
        loads: [...d.loads, { place: `load_${n}`, title: `Load ${n}` }],
        givens: { ...d.givens, [`load_${n}.rated_power`]: 40 },
      }
    })
  const drop = (place: string, title: string) =>
    edit(`Removed ${title}`, (d) => {
      const without = <T,>(o: Record<string, T>) =>
        Object.fromEntries(Object.entries(o).filter(([k]) => !k.startsWith(`${place}.`)))
      return {
        ...d,
        loads: d.loads.filter((l) => l.place !== place),
        givens: without(d.givens),
        choices: without(d.choices),
        pins: without(d.pins),
      }
    })
  return (
    <main className="page">
      <div className="split">
        <section>
          <h2 className="cap">
            What it shall feed <span className="filter">watts, power factor and start of every appliance</span>
          </h2>
          <div className="scroll">
            <table className="table">
              <thead>
                <tr>
                  <th>Load</th>
                  <th>Type</th>
                  <th className="r">Each</th>
                  <th className="r">Count</th>
                  <th className="r">PF</th>
                  <th className="r">Start ×</th>
                  <th style={{ whiteSpace: 'nowrap' }}>On a sine</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {design.loads.map((l) => {
                  const typeKey = `${l.place}.type`
                  const choice = meta!.choices[typeKey]
                  if (!choice) return null
                  const type = design.choices[typeKey] ?? choice.default
                  const pinned = (name: string) => {
                    const key = `${l.place}.${name}`
                    return (
                      <Entry
                        hideLabel
                        label={`${name.replace(/_/g, ' ')} of ${l.title}`}
                        className={design.pins[key] ? 'num pinned' : 'num'}
                        value={at(sheet!.figures[key], 0)}
                        unit=""
                        onValue={(v) =>
                          edit(`${l.title}: ${name.replace(/_/g, ' ')}`, (d) => ({
                            ...d,
                            pins: {
                              ...d.pins,
                              [key]: {
                                value: v,
                                part: null,
                                quantity: 1,
                                reason: d.pins[key]?.reason ?? 'stated by the maker',
                              },
                            },
                          }))
                        }
                      />
                    )
                  }
                  const word = fit.data?.[type]?.sine ?? ''
                  const rectifier = type === 'rectifier'
                  return (
                    <tr key={l.place} data-load={l.place}>
                      <td>
                        <input
                          aria-label="Name of the load"
                          value={l.title}
                          style={{ minWidth: 180 }}
                          onChange={(e) =>
                            edit(`Renamed ${l.place}`, (d) => ({
                              ...d,
                              loads: d.loads.map((x) =>
                                x.place === l.place ? { ...x, title: e.target.value || 'Load' } : x,
                              ),
                            }))
                          }
                        />
                      </td>
                      <td>
                        <select
                          style={{ minWidth: 150, maxWidth: 220 }}
                          aria-label={`Type of ${l.title}`}
                          value={type}
                          onChange={(e) =>
                            edit(`${l.title}: ${choice.options[e.target.value]}`, (d) => ({
                              ...d,
                              choices: { ...d.choices, [typeKey]: e.target.value },
                            }))
                          }>
                          {Object.entries(choice.options).map(([k, t]) => (
                            <option key={k} value={k}>
                              {t}
                            </option>
                          ))}
                        </select>
                      </td>
                      {(['rated_power', 'count'] as const).map((name) => (
                        <td className="r" key={name} style={{ width: name === 'count' ? 52 : 84 }}>
                          <span style={{ display: 'block' }}>
                            <Entry
                              hideLabel
                              id={`${l.place}.${name}`}
                              label={`${name === 'count' ? 'Count' : 'Watts'} of ${l.title}`}
                              value={at(sheet!.figures[`${l.place}.${name}`], 0)}
                              unit={name === 'count' ? '' : 'W'}
                              onValue={(v) =>
                                edit(`${l.title}: ${name === 'count' ? 'count' : 'watts'}`, (d) => ({
                                  ...d,
                                  givens: { ...d.givens, [`${l.place}.${name}`]: v },
                                }))
                              }
                            />
                          </span>
                        </td>
                      ))}
                      <td className="r" style={{ width: 60 }}>
                        {pinned('power_factor')}
                      </td>
                      <td className="r" style={{ width: 50 }}>
                        {pinned('start_factor')}
                      </td>
                      <td style={{ whiteSpace: 'nowrap' }}>
                        <Mark verdict={word.startsWith('yes') ? 'holds' : word.startsWith('no') ? 'fails' : 'tight'} />{' '}
                        {word}
                        {rectifier ? ', crest not drawn' : ''}
                      </td>
                      <td>
                        {design.loads.length > 1 && (
                          <button
                            className="act"
                            onClick={() => drop(l.place, l.title)}
                            aria-label={`Remove ${l.title}`}>
                            remove
                          </button>
                        )}
                      </td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
          </div>
          <p style={{ marginTop: 12 }}>
            <Button variant={'copper' as never} onClick={add}>
              Add a load
            </Button>
          </p>
          <details open style={{ marginTop: 18 }}>
            <summary className="act">What other waveforms could feed</summary>
            <div className="scroll">
              <table className="table">
                <thead>
                  <tr>
                    <th>Load</th>
                    {Object.keys(fit.data?.heater ?? {}).map((w) => (
                      <th key={w}>{w}</th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {[...new Set(design.loads.map((l) => design.choices[`${l.place}.type`] ?? 'heater'))].map((t) => (
                    <tr key={t}>
                      <td>{meta!.choices[`${design.loads[0]!.place}.type`]?.options[t]}</td>
                      {Object.entries(fit.data?.[t] ?? {}).map(([w, word]) => (
                        <td key={w} className={w === 'sine' ? '' : 'quiet'}>
                          {word}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          </details>
        </section>
        <aside>
          <h2 className="cap">Sums</h2>
          <table className="table">
            <tbody>
              {SUMS.map(([key, name]) => (
                <tr key={key}>
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
                      value={at(sheet!.figures[key], 0)}
                      unit={meta!.figures[key]!.unit}
                      digits={4}
                      pinned={sheet!.figures[key]?.pinned}
                    />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="cap" style={{ marginTop: 22 }}>
            Source
          </h2>
          <div className="row2 wide">
            <label htmlFor="chemistry">Chemistry</label>
            <select
              id="chemistry"
              value={design.choices['battery.chemistry'] ?? chemistry.default}
              onChange={(e) =>
                edit(`Chemistry: ${chemistry.options[e.target.value]}`, (d) => ({
                  ...d,
                  choices: { ...d.choices, 'battery.chemistry': e.target.value },
                }))
              }>
              {Object.entries(chemistry.options).map(([k, t]) => (
                <option key={k} value={k}>
                  {t}
                </option>
              ))}
            </select>
          </div>
          {SOURCE.map(given)}
          <p className="quiet" style={{ fontSize: 13.5 }}>
            Lasts <Num value={at(sheet!.figures['battery.run_time'], 2)} unit="s" /> at full load,{' '}
            <Num value={at(sheet!.figures['battery.run_time'], 5)} unit="s" /> idling.
          </p>
          <h2 className="cap" style={{ marginTop: 22 }}>
            Output
          </h2>
          {OUTPUT.map(given)}
        </aside>
      </div>
    </main>
  )
}
