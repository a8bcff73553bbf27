/** Reading values out of sampled traces, and writing them down. */
import type { ScopeTold, Trace } from '../../api'

/** The value at a time: that of the last sample not after it. */
export function valueAt(t: Trace, x: number): number {
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
    [x, valueAt(traces.node, x), valueAt(traces.choke, x), traces.output.v[i]].join(','),
  )
  return ['time s,bridge node V,choke A,output V', ...rows].join('\n')
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

/** Full scale of a trace: its greatest size with some room. */
export function fullScale(t: Trace): number {
  let most = 0
  for (const v of t.v) most = Math.max(most, Math.abs(v))
  return most * 1.12
}

/** The path of a trace about a middle line; what lies well outside the view is left out. */
export function tracePath(t: Trace, period: number, view: View, middle: number, half: number): string {
  const full = fullScale(t) || 1
  const [first, last] = [view.from - 0.02, view.from + 1 / view.zoom + 0.02]
  let d = ''
  for (let i = 0; i < t.t.length; i++) {
    const share = t.t[i]! / period
    if (share < first || share > last) continue
    d += `${d ? 'L' : 'M'}${across(share, view).toFixed(1)} ${(middle - (t.v[i]! / full) * half).toFixed(1)}`
  }
  return d
}
