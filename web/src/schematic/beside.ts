/** Where a node's reading stands: beside the words of the parts that meet there. */
import type { Drawn, DrawnPart } from '../api/schema'
import { STEP } from './symbols'

export interface Beside {
  x: number
  y: number
  anchor: 'start' | 'middle' | 'end'
}
/** What the words of a lying part take to either side of its middle, and a reading beside its node. */
const [WORDS, READING] = [34, 58]
/** How far below its middle the last words of an upright part reach, and above its node a reading does. */
const [BELOW, ABOVE] = [28, 18]

interface Around {
  /** Whether a lying part to the right (1) or the left (−1) is so short that its words reach to the node. */
  lies: (way: number) => boolean
  /** The same of an upright one below (1) or above (−1). */
  stands: (way: number) => boolean
  down: boolean
  /** Whether a wire leads to the right (1) or the left (−1). */
  wired: (way: number) => boolean
}

type Wires = Drawn['wires']

function around(node: readonly number[], parts: readonly DrawnPart[], wires: Wires): Around {
  const there = (p: readonly number[]) => p[0] === node[0] && p[1] === node[1]
  // What leads away, in steps to the right and down.
  const ways = parts
    .filter((p) => p.kind !== 'wire' && (there(p.start) || there(p.end)))
    .map((p) => (there(p.start) ? [p.start, p.end] : [p.end, p.start]))
    .map(([near, far]) => [far![0]! - near![0]!, far![1]! - near![1]!] as const)
  return {
    lies: (way) =>
      ways.some(([x, y]) => y === 0 && Math.sign(x) === way && (Math.abs(x) / 2) * STEP.x < WORDS + READING),
    stands: (way) =>
      ways.some(([x, y]) => x === 0 && Math.sign(y) === way && (Math.abs(y) / 2) * STEP.y < BELOW + ABOVE),
    down: ways.some(([x, y]) => x === 0 && y > 0),
    wired: (way) =>
      wires.some((wire) =>
        wire.slice(1).some((to, k) => {
          const from = wire[k]!
          const on = from[1] === node[1] && to[1] === node[1]
          return on && Math.max((from[0]! - node[0]!) * way, (to[0]! - node[0]!) * way) > 0
        }),
      ),
  }
}

/** Offsets from the node at `node` (on the grid) to its name and to its reading; `named` where it has one. */
export function besideNode(
  node: readonly number[],
  named: boolean,
  { parts, wires, left: edge }: Pick<Drawn, 'parts' | 'wires' | 'left'>,
): { name: Beside; reading: Beside } {
  const { lies, stands, down, wired } = around(node, parts, wires)
  const left = !lies(-1) && node[0]! > edge
  const name: Beside = lies(1) && left ? { x: -8, y: 17, anchor: 'end' } : { x: 8, y: 17, anchor: 'start' }
  return { name, reading: reading() }

  function reading(): Beside {
    if (!lies(1) && stands(-1) && stands(1) && !wired(1)) return { x: 10, y: 5, anchor: 'start' }
    if (!lies(1) && !stands(-1)) return { x: 8, y: -8, anchor: 'start' }
    if (left) return { x: -8, y: -8, anchor: 'end' }
    if (!lies(1) && !stands(1)) return { x: 8, y: named ? 30 : 17, anchor: 'start' }
    if (down && stands(1)) return { x: 0, y: -10, anchor: 'middle' }
    return down ? { x: 8, y: named ? 34 : 27, anchor: 'start' } : { x: 0, y: named ? 34 : 22, anchor: 'middle' }
  }
}
