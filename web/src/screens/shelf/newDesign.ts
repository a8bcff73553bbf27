/** A design from what a new project asks; all else begins at its usual value. */
import type { Design } from '../../api'
import type { Row } from './loadList'

export interface Asked {
  title: string
  lineup: string
  givens: Record<string, number>
  choices: Record<string, string>
}

/** `rows` with their watts as read by the server. */
export function newDesign(asked: Asked, rows: (Omit<Row, 'line' | 'watts'> & { watts: number })[]): Design {
  const places = rows.map((_, k) => `load_${k + 1}`)
  const by = <T>(name: string, of: (row: (typeof rows)[number]) => T): Record<string, T> =>
    Object.fromEntries(rows.map((row, k) => [`${places[k]}.${name}`, of(row)]))
  return {
    format: 'rhombos-design',
    version: 1,
    title: asked.title,
    lineup: asked.lineup,
    loads: rows.map((row, k) => ({ place: places[k]!, title: row.title.slice(0, 120) })),
    givens: { ...asked.givens, ...by('rated_power', (r) => r.watts), ...by('count', (r) => r.count) },
    choices: { ...asked.choices, ...by('type', (r) => r.type) },
    pins: {},
    parts: {},
  }
}
