/** A load list as people write it or paste it from a table: one load a line, with its name, watts, and if wanted how many and which type. */

export interface Row {
  line: number
  title: string
  /** As typed; the server reads it. */
  watts: string
  count: number
  /** The key of the type. */
  type: string
}

const COUNT = /^(?:[x×]\s*(\d{1,3})|(\d{1,3})\s*[x×])$/i

/** Cells of a line: by tabs or semicolons if there are any, else by commas that part no digits. */
function cells(line: string): string[] {
  const by = /[\t;]/.test(line) ? /[\t;]/ : /,(?!\d)|(?<!\d),/
  return line
    .split(by)
    .map((cell) => cell.trim())
    .filter(Boolean)
}

/** The type that a word means: the whole of its name, a word of it, or its key. */
function typeOf(word: string, types: Record<string, string>): string | undefined {
  const asked = word.toLowerCase()
  const names = Object.entries(types)
  const by = (fits: (name: string, key: string) => boolean) =>
    names.find(([key, name]) => fits(name.toLowerCase(), key))
  return (by((name, key) => name === asked || key === asked.replace(/\s+/g, '_')) ??
    by((name) => asked.length > 3 && name.split(/[^\p{L}]+/u).some((part) => part === asked)))?.[0]
}

/** What people call their appliances, by the type that such a one is as a rule; a lamp may be of any type. */
const CALLED: Record<string, string> = {
  heater: 'heater kettle toaster iron oven stove hob boiler cooker',
  filament_lamp: 'bulb bulbs halogen incandescent filament',
  rectifier: 'led leds router modem radio charger chargers phone phones',
  active_pfc: 'laptop laptops computer computers pc monitor monitors tv television server projector',
  induction_motor: 'compressor fridge freezer refrigerator pump fan conditioner',
  universal_motor: 'drill saw grinder planer sander vacuum cleaner hoover mixer blender',
  transformer_input: 'microwave welder',
}

/** The type that a name tells, of those there are; none where it tells several, or nothing. */
function named(title: string, types: Record<string, string>): string | undefined {
  const words = title.toLowerCase().split(/[^\p{L}]+/u)
  const told = Object.keys(CALLED).filter(
    (key) => key in types && CALLED[key]!.split(' ').some((word) => words.includes(word)),
  )
  return told.length === 1 ? told[0] : undefined
}

/** Reads the list; what cannot be read is told by its line, with what was expected. */
export function loadList(text: string, types: Record<string, string>, usual: string): { rows: Row[]; wrong: string[] } {
  const rows: Row[] = []
  const wrong: string[] = []
  text.split(/\r?\n/).forEach((line, k) => {
    const parts = cells(line)
    const numbered = parts.some((part) => /^\d|^[x×]\s*\d/.test(part))
    // A table's first line names its columns.
    if (parts.length === 0 || (k === 0 && parts.length > 1 && !numbered)) return
    const row: Row = { line: k + 1, title: '', watts: '', count: 1, type: '' }
    for (const part of parts) {
      const count = COUNT.exec(part) ?? (row.watts && /^(\d{1,3})$/.exec(part))
      const type = typeOf(part, types)
      if (count) row.count = Number(count[1] ?? count[2])
      else if (/^\d/.test(part) && !row.watts) row.watts = part
      else if (type && row.title) row.type = type
      else if (!row.title) row.title = part
      else wrong.push(`line ${k + 1}: “${part}” is no watts, no number of pieces and no type of load`)
    }
    row.type ||= named(row.title, types) ?? usual
    row.title ||= `Load ${rows.length + 1}`
    if (!row.watts) wrong.push(`line ${k + 1}: “${line.trim()}” says no watts; write “${row.title}, 60 W”`)
    else rows.push(row)
  })
  if (rows.length === 0 && wrong.length === 0) wrong.push('no load is given; write at least one, as “Lamp, 60 W”')
  if (rows.length > 24)
    wrong.push(`${rows.length} loads are given, at most 24 can be told apart: put like ones together`)
  return { rows, wrong }
}
