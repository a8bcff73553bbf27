/** The switches' commands as a value change dump (IEEE 1364), for logic analysers and their viewers. */
import type { ProbeTold } from '../api/schema'

const STEPS = 1e12

/** One bit a gate, in picoseconds. */
export function vcd({ gates, seconds }: Pick<ProbeTold, 'gates' | 'seconds'>, module: string): string {
  const sign = (k: number) => String.fromCharCode(33 + k)
  const changes = new Map<number, string[]>()
  const note = (time: number, change: string) => {
    const at = Math.round(time * STEPS)
    changes.set(at, [...(changes.get(at) ?? []), change])
  }
  gates.forEach((gate, k) => {
    if (gate.spans[0]?.[0] !== 0) note(0, `0${sign(k)}`)
    for (const [from, to] of gate.spans) {
      note(from, `1${sign(k)}`)
      if (to < seconds) note(to, `0${sign(k)}`)
    }
  })
  const named = (name: string) => name.trim().replace(/\W+/g, '_')
  return [
    '$timescale 1 ps $end',
    `$scope module ${named(module)} $end`,
    ...gates.map((gate, k) => `$var wire 1 ${sign(k)} ${named(gate.name)} $end`),
    '$upscope $end',
    '$enddefinitions $end',
    ...[...changes].sort(([a], [b]) => a - b).map(([at, these]) => [`#${at}`, ...these].join('\n')),
    `#${Math.round(seconds * STEPS)}`,
    '',
  ].join('\n')
}
