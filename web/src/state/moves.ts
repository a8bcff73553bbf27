/** The edits that a person makes on a design, as pure functions: every screen edits through these. */
import type { Design } from '../api'

export type Move = (design: Design) => Design

export const given =
  (key: string, value: number): Move =>
  (d) => ({ ...d, givens: { ...d.givens, [key]: value } })

export const chosen =
  (key: string, option: string): Move =>
  (d) => ({ ...d, choices: { ...d.choices, [key]: option } })

/** Holds a figure at a value; without a reason, the reason that stood there before goes on. */
export const pinned =
  (key: string, value: number, reason?: string): Move =>
  (d) => ({
    ...d,
    pins: { ...d.pins, [key]: { value, part: null, quantity: 1, reason: reason ?? d.pins[key]?.reason ?? '' } },
  })

export const pinnedPart =
  (key: string, part: string, quantity: number, reason: string): Move =>
  (d) => ({ ...d, pins: { ...d.pins, [key]: { value: null, part, quantity, reason } } })

export const unpinned =
  (key: string): Move =>
  (d) => ({ ...d, pins: keeping(d.pins, (k) => k !== key) })

/** With this begins the reason of every pin that holding a build has made (as the server writes it). */
export const HELD = 'build held: '

/** Whether a build is held, and why: the words behind the mark, or null. */
export const heldFor = (d: Design): string | null =>
  Object.values(d.pins)
    .find((p) => p.reason.startsWith(HELD))
    ?.reason.slice(HELD.length) ?? null

/** The places at which something is held. */
export const heldPlaces = (pins: Design['pins']): Set<string> =>
  new Set(
    Object.entries(pins)
      .filter(([, p]) => p.reason.startsWith(HELD))
      .map(([key]) => key.split('.')[0]!),
  )

/** Every decision and part stays where the server says that it stands. */
export const heldBuild =
  (pins: Design['pins']): Move =>
  (d) => ({ ...d, pins: { ...pins, ...d.pins } })

/** What holding a build has pinned is free again; what was pinned by hand stays. */
export const letGo: Move = (d) => ({
  ...d,
  pins: Object.fromEntries(Object.entries(d.pins).filter(([, p]) => !p.reason.startsWith(HELD))),
})

export const lineUp =
  (id: string): Move =>
  (d) => ({ ...d, lineup: id })

/** A load more, numbered after the highest there is, so that a removed load's number is not given again beside it. */
export const addedLoad: Move = (d) => {
  const n = Math.max(0, ...d.loads.map((l) => Number(l.place.replace('load_', '')))) + 1
  return given(`load_${n}.rated_power`, 40)({ ...d, loads: [...d.loads, { place: `load_${n}`, title: `Load ${n}` }] })
}

export const renamedLoad =
  (place: string, title: string): Move =>
  (d) => ({ ...d, loads: d.loads.map((l) => (l.place === place ? { ...l, title: title || 'Load' } : l)) })

/** Takes a load out with all that was said of it; nothing of it may stay behind and speak for a later one. */
export const removedLoad =
  (place: string): Move =>
  (d) => {
    const others = (key: string) => !key.startsWith(`${place}.`)
    return {
      ...d,
      loads: d.loads.filter((l) => l.place !== place),
      givens: keeping(d.givens, others),
      choices: keeping(d.choices, others),
      pins: keeping(d.pins, others),
    }
  }

function keeping<T>(record: Record<string, T>, wanted: (key: string) => boolean): Record<string, T> {
  return Object.fromEntries(Object.entries(record).filter(([key]) => wanted(key)))
}
