/** The keys, told once: what acts, what the list of keys says, and what the foot shows. */
export interface Key {
  /** Keys as they are pressed; in the list they stand behind one another. */
  keys: string[]
  /** What is said in the list of keys. */
  what: string
  /** What the foot says, where it shows the key. */
  short?: string
  /** Where the foot shows it; everywhere where nothing is said. */
  on?: 'stages'
}

/** The key of each corner, in order. */
export const CORNER_KEYS = '1234567890-'
export const KEY_TABLE = {
  walk: { keys: ['[', ']'], what: 'walk the line, stage by stage', short: 'walk the line' },
  corner: { keys: ['1', '…', '-'], what: 'choose the corner', short: 'corner' },
  why: {
    keys: ['w'],
    what: 'why: explain the first figure of the sheet, or go to the open one',
    short: 'why',
    on: 'stages',
  },
  pin: { keys: ['p'], what: 'pin the open figure, or take its pin out', short: 'pin', on: 'stages' },
  seek: { keys: ['g'], what: 'make the open figure equal to …', short: 'make equal to …', on: 'stages' },
  find: { keys: ['h'], what: 'find a figure within the stage', on: 'stages' },
  judgement: {
    keys: ['j'],
    what: 'go to the next judgement that does not hold',
    short: 'next judgement',
    on: 'stages',
  },
  lineup: { keys: ['f'], what: 'swap to the next line-up', short: 'next line-up' },
  revision: { keys: ['s'], what: 'save a revision' },
  finder: { keys: ['/'], what: 'find a stage or a figure' },
  undo: { keys: ['Ctrl Z'], what: 'undo', short: 'undo' },
  redo: { keys: ['Ctrl Shift Z'], what: 'redo' },
  leave: { keys: ['Esc'], what: 'close; give up what is being typed' },
  list: { keys: ['?'], what: 'this list' },
} satisfies Record<string, Key>
export type Act = keyof typeof KEY_TABLE

const ACTS = Object.entries(KEY_TABLE) as [Act, Key][]
/** What a single key does, if it does anything. */
export const actOf = (key: string): Act | undefined =>
  CORNER_KEYS.includes(key) ? 'corner' : ACTS.find(([, k]) => k.keys.includes(key))?.[0]
export const keyRows: Key[] = ACTS.map(([, key]) => key)
