/** What other waveforms could feed the types of load in the list. */
import { useSelected } from '../../state/sheet'
import { useWorked } from '../../state/workspace'
import type { Suitability } from './LoadTable'
import { Scroll } from '../../ui/Scroll'

export function Waveforms({ fit }: { fit: Suitability }) {
  const meta = useSelected((s) => s.meta)
  const loads = useWorked((w) => w.design.loads)
  const choices = useWorked((w) => w.design.choices)
  const typeOf = (place: string) => {
    const key = `${place}.type`
    return choices[key] ?? meta.choices[key]?.default ?? ''
  }
  const types = [...new Set(loads.map((l) => typeOf(l.place)))].filter((type) => fit[type])
  const waveforms = Object.keys(fit[types[0] ?? ''] ?? {})
  const titles = meta.choices[`${loads[0]!.place}.type`]?.options ?? {}
  return (
    <details open style={{ marginTop: 18 }}>
      <summary className="act">What other waveforms could feed</summary>
      <Scroll of="What each load makes of other waveforms">
        <table className="table">
          <thead>
            <tr>
              <th>Load</th>
              {waveforms.map((w) => (
                <th key={w}>{w}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {types.map((type) => (
              <tr key={type}>
                <td>{titles[type]}</td>
                {waveforms.map((w) => (
                  <td key={w} className={w === 'sine' ? '' : 'quiet'}>
                    {fit[type]![w]!.words}
                    {fit[type]![w]!.people && ' (people)'}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
    </details>
  )
}
