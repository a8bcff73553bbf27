/** Reading values out of sampled traces, and writing them down. */
import type { ScopeTold, Trace } from '../../api'

/** The value at a time: that of the last sample not after it. */
export function valueAt(t: Pick<Trace, 't' | 'v'>, x: number): number {
  let lo = 0
  let hi = t.t.length - 1
  while (lo < hi) {
    const middle = (lo + hi + 1) >> 1
    if (t.t[middle]! <= x) lo = middle
    else hi = middle - 1
  }
  return t.v[lo] ?? 0
}

/** All traces as comma-separated values, at the times of the output's samples. */
export function tracesCsv({ traces }: ScopeTold): string {
  const rows = traces.output.t.map((x, i) =>
    [
      x,
      ...[traces.node, traces.choke, traces.link, traces.front, traces.load].map((t) => valueAt(t, x)),
      traces.output.v[i],
    ].join(','),
  )
  return ['time s,bridge node V,choke A,link V,front end A,load A,output V', ...rows].join('\n')
}

/** The drawing's sizes, in its own units: the plot lies between `left` and `width - right`. */
export const FRAME = { width: 900, height: 476, left: 66, right: 12, top: 14, bottom: 428 }

/** The part of the period that is shown: where it begins, as a share of the period, and how often it is magnified. */
export interface View {
  from: number
  zoom: number
}

const inner = FRAME.width - FRAME.left - FRAME.right

/** Where a share of the period lies across the drawing, and back. */
export const across = (share: number, { from, zoom }: View): number => FRAME.left + (share - from) * zoom * inner
export const shareAt = (x: number, { from, zoom }: View): number => from + (x - FRAME.left) / inner / zoom

/** A view that keeps a cursor in the middle, as far as the period reaches. */
export const viewAround = (share: number, zoom: number): View => ({
  zoom,
  from: Math.max(0, Math.min(1 - 1 / zoom, share - 0.5 / zoom)),
})

/** The greatest size of a trace. */
export function most(t: Trace): number {
  let found = 0
  for (const v of t.v) found = Math.max(found, Math.abs(v))
  return found
}

/** Full scale of a trace: its greatest size with some room. */
export const fullScale = (t: Trace): number => most(t) * 1.12

/** The path of a trace about a middle line, to its own full scale or another; what lies well outside the view is left out. */
export function tracePath(
  t: Trace,
  period: number,
  view: View,
  { middle, half }: { middle: number; half: number },
  full = fullScale(t) || 1,
): string {
  const [first, last] = [view.from - 0.02, view.from + 1 / view.zoom + 0.02]
  let d = ''
  for (let i = 0; i < t.t.length; i++) {
    const share = t.t[i]! / period
    if (share < first || share > last) continue
    d += `${d ? 'L' : 'M'}${across(share, view).toFixed(1)} ${(middle - (t.v[i]! / full) * half).toFixed(1)}`
  }
  return d
}

/** A stretch of the period: the levels between which a pulsed trace moves there, and the share of the time it is driven. */
export interface Shade {
  from: number
  to: number
  top: number
  bottom: number
  share: number
}

/** Of the full scale: what a bridge at rest drops is less. */
const AT_REST = 0.05

/** A pulsed trace over one period as so many shades. Driven is what stands well off zero; with two levels, what stands above it. */
export function dutyShades(trace: Trace, period: number, columns: number): Shade[] {
  const { t, v } = trace
  const rest = fullScale(trace) * AT_REST
  const sums = Array.from({ length: columns }, () => ({ top: 0, bottom: 0, driven: 0, above: 0, still: 0 }))
  for (let i = 0; i + 1 < t.length; i++) {
    // Samples stand on both sides of an edge, so a piece has one level.
    for (let k = Math.floor((t[i]! / period) * columns); k < columns; k++) {
      const first = Math.max(t[i]!, (k * period) / columns)
      const time = Math.min(t[i + 1]!, ((k + 1) * period) / columns) - first
      if (time <= 0) break
      const sum = sums[k]!
      const level = (v[i]! + v[i + 1]!) / 2
      sum.top = Math.max(sum.top, level)
      sum.bottom = Math.min(sum.bottom, level)
      if (Math.abs(level) > rest) sum.driven += time
      else sum.still += time
      if (level > 0) sum.above += time
    }
  }
  return sums.map((sum, k) => {
    const both = sum.top > 0 && sum.bottom < 0 && sum.still < sum.driven / 100
    const all = sum.driven + sum.still || 1
    return {
      from: k / columns,
      to: (k + 1) / columns,
      top: sum.top,
      bottom: sum.bottom,
      share: (both ? sum.above : sum.driven) / all,
    }
  })
}

const PULSES = 16

/** The samples about a time as a path in a box, and how many seconds they last. */
export function stretch(
  { t, v }: Trace,
  at: number,
  box: { left: number; top: number; width: number; height: number },
): { path: string; seconds: number } {
  let middle = 0
  while (middle + 1 < t.length && t[middle + 1]! <= at) middle++
  const first = Math.max(0, Math.min(middle - PULSES, t.length - 2 * PULSES))
  const last = Math.min(t.length - 1, first + 2 * PULSES)
  const seconds = t[last]! - t[first]! || 1
  let most = 0
  for (let i = first; i <= last; i++) most = Math.max(most, Math.abs(v[i]!))
  let path = ''
  for (let i = first; i <= last; i++) {
    const x = box.left + ((t[i]! - t[first]!) / seconds) * box.width
    const y = box.top + box.height / 2 - 4 - (v[i]! / (most || 1)) * (box.height / 2 - 12)
    path += `${path ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`
  }
  return { path, seconds }
}
