/** A small made-up design, its line-up and its sheet, and a way to show a screen within them. */
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactElement, ReactNode } from 'react'
import { MemoryRouter } from 'react-router'
import { vi } from 'vitest'
import type {
  CheckValue,
  Design,
  FigureValue,
  LineUp,
  Part,
  PlacedCheck,
  PlacedFigure,
  PlaceMeta,
  Project,
  Sheet,
  Verdict,
} from '../src/api'
import type { Columns, LineUpMeta, StageMeta, Stages } from '../src/api/schema'
import { worse } from '../src/state/figures'
import type { Move } from '../src/state/moves'
import { Store } from '../src/state/store'
import { Provide, type OpenProject, type Workspace } from '../src/state/workspace'
import { system } from '../src/theme'

export const place = (name: string, over: Partial<PlaceMeta> = {}): PlaceMeta => ({
  name,
  title: name[0]!.toUpperCase() + name.slice(1),
  stage: name,
  section: '',
  host: null,
  path: true,
  telling: '',
  hazards: [],
  pictures: [],
  schematic: false,
  ...over,
})

export const figure = (key: string, unit: string, over: Partial<PlacedFigure> = {}): PlacedFigure => {
  const [where, name] = key.split('.') as [string, string]
  const title = name.replace(/_/g, ' ')
  return {
    place: where,
    name,
    kind: 'build',
    title: title[0]!.toUpperCase() + title.slice(1),
    symbol: 'x_y',
    unit,
    shown_unit: unit,
    sentence: `What ${title} is.`,
    low: null,
    high: null,
    default: null,
    judgement: false,
    source: 'made up',
    owner: '',
    group: 'What leads',
    whole: false,
    ...over,
  }
}

export const check = (demand: string, capability: string, over: Partial<PlacedCheck> = {}): PlacedCheck => ({
  place: demand.split('.')[0]!,
  title: 'Voltage of the switch',
  why: 'Avalanche takes its toll.',
  harm: 'part',
  demand,
  capability,
  ...over,
})

export const judged = (verdicts: Verdict[], over: Partial<CheckValue> = {}): CheckValue => ({
  margin: verdicts.map((v) => ({ holds: 1.5, tight: 1.1, fails: 0.8, unknown: null })[v]),
  verdicts,
  verdict: verdicts.reduce(worse),
  worst: 0,
  fail: 1,
  hold: 1.25,
  sentence: 'It sees 90 V and stands 100 V.',
  no_demand: false,
  ...over,
})

export const pick = (part: string, over: Partial<Part> = {}): Part => ({
  part,
  quantity: 2,
  fits: true,
  pinned: false,
  ...over,
})

export const CORNERS = [
  { id: 'low', title: 'lowest full', lasts: true },
  { id: 'high', title: 'highest full', lasts: true },
]

export const sampleMeta = (over: Partial<LineUp> = {}): LineUp => ({
  id: 'sample',
  title: 'Sample',
  places: [
    place('battery', {
      telling: '{battery.cells} × {battery.chemistry}',
      hazards: [{ kind: 'fault_current', figure: 'battery.fault_current', above: 100 }],
    }),
    place('front', { telling: '{front.switch} · {oscillator.frequency}' }),
    place('oscillator', { host: 'front', path: false, telling: '{oscillator.frequency}' }),
    place('output', {
      telling: '{output.voltage}',
      hazards: [{ kind: 'ac_voltage', figure: 'output.voltage', above: 30 }],
    }),
    place('load_1', { section: 'loads', host: 'output', path: false }),
  ],
  figures: {
    'battery.cells': figure('battery.cells', '', { kind: 'given' }),
    'battery.resistance': figure('battery.resistance', 'Ω', { kind: 'given', judgement: true }),
    'front.peak_voltage': figure('front.peak_voltage', 'V', { kind: 'operation' }),
    'front.rating': figure('front.rating', 'V', { kind: 'published', owner: 'switch' }),
    'front.turns': figure('front.turns', '', { whole: true }),
    'oscillator.frequency': figure('oscillator.frequency', 'Hz'),
    'output.voltage': figure('output.voltage', 'V', { kind: 'given' }),
    'load_1.rated_power': figure('load_1.rated_power', 'W', { kind: 'given' }),
    'load_1.count': figure('load_1.count', '', { kind: 'given' }),
    'load_1.power_factor': figure('load_1.power_factor', ''),
    'load_1.start_factor': figure('load_1.start_factor', ''),
  },
  choices: {
    'battery.chemistry': {
      place: 'battery',
      name: 'chemistry',
      title: 'Chemistry',
      sentence: '',
      default: 'lfp',
      options: { lfp: 'LiFePO4', lead: 'Lead-acid' },
    },
    'load_1.type': {
      place: 'load_1',
      name: 'type',
      title: 'Type',
      sentence: '',
      default: 'heater',
      options: { heater: 'resistive heater', rectifier: 'electronics' },
    },
  },
  checks: { 'front.voltage': check('front.peak_voltage', 'front.rating') },
  picks: { 'front.switch': { place: 'front', title: 'Switch', sentence: 'Chops.', type: 'switch', published: [] } },
  joints: [
    { frm: 'battery', to: 'front', kind: 'dc', voltage: 'battery.cells', current: 'front.turns', sign: '', tail: 'DC' },
    {
      frm: 'front',
      to: 'output',
      kind: 'ac',
      voltage: 'output.voltage',
      current: 'output.voltage',
      sign: '±',
      tail: '',
    },
  ],
  corners: CORNERS,
  first: 0,
  fields: [{ group: 'source', key: 'battery.cells', at_once: true, counted: null }],
  sums: [],
  views: [],
  order: [],
  groups: { front: ['What leads', 'Stress'] },
  same: {},
  ...over,
})

const values = (...v: (number | null)[]): FigureValue => ({ values: v })

export const sampleSheet = (over: Partial<Sheet> = {}): Sheet => ({
  corners: CORNERS,
  figures: {
    'battery.cells': values(8),
    'battery.resistance': values(0.002),
    'front.peak_voltage': values(60, 90),
    'front.rating': values(100),
    'front.turns': values(4),
    'oscillator.frequency': values(40e3),
    'output.voltage': values(230),
    'load_1.rated_power': values(300),
    'load_1.count': values(1),
    'load_1.power_factor': values(1),
    'load_1.start_factor': values(1),
  },
  picks: { 'front.switch': pick('N100-8') },
  checks: { 'front.voltage': judged(['holds', 'tight']) },
  passes: { outer: 1, inner: 1, alternating: [] },
  ...over,
})

export const sampleDesign = (over: Partial<Design> = {}): Design => ({
  format: 'rhombos-design',
  version: 1,
  title: 'Lamp on the pier',
  lineup: 'sample',
  loads: [{ place: 'load_1', title: 'Heater' }],
  givens: { 'load_1.rated_power': 300 },
  choices: {},
  pins: {},
  parts: {},
  ...over,
})

export const sampleProject = (design = sampleDesign(), version = 3): Project => ({
  id: 7,
  title: design.title,
  head: 1,
  message: 'First sheet',
  created: '2026-01-01T10:00:00',
  touched: '2026-01-02T10:00:00',
  standing: 'shelf',
  draft: { version, base: 1, design, saved: '2026-01-02T10:00:00' },
  revisions: [],
  decisions: [],
  catalogue_changes: [],
})

type Sample = Workspace & OpenProject

/** A workspace whose edits are recorded: `after` is what the last edit would make of the design. */
export function sampleWorkspace(over: Partial<Sample> = {}) {
  const design = over.design ?? sampleDesign()
  const edit = vi.fn<(label: string, move: Move) => void>()
  const workspace: Sample = {
    project: sampleProject(design),
    base: '/project/7',
    design,
    meta: sampleMeta(),
    sheet: sampleSheet(),
    solving: false,
    problem: '',
    away: false,
    solved: design,
    solvedIn: 4,
    changed: [],
    former: {},
    dismiss: vi.fn(),
    corner: 0,
    setCorner: vi.fn(),
    edit,
    bring: vi.fn(),
    undo: vi.fn(),
    redo: vi.fn(),
    canUndo: false,
    canRedo: false,
    lastEdit: '',
    save: { kind: 'saved' },
    version: 3,
    saveRevision: vi.fn(() => Promise.resolve(2)),
    resolve: vi.fn(),
    retry: vi.fn(),
    news: [],
    told: vi.fn(),
    reload: vi.fn(),
    ...over,
  }
  return {
    workspace,
    edit,
    last: () => {
      const [label, move] = edit.mock.lastCall!
      return { label, design: move(design) }
    },
  }
}

export function around(workspace: Sample | null, path = '/') {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const store = workspace && new Store(workspace)
  return ({ children }: { children: ReactNode }) => (
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <MemoryRouter initialEntries={[path]}>
          {store ? (
            <Provide workspace={store} project={store}>
              {children}
            </Provide>
          ) : (
            children
          )}
        </MemoryRouter>
      </QueryClientProvider>
    </ChakraProvider>
  )
}

/** Shows an element within a sample workspace. */
export function show(element: ReactElement, over: Partial<Sample> = {}, path = '/') {
  const sample = sampleWorkspace(over)
  return { ...sample, ...render(element, { wrapper: around(sample.workspace, path) }) }
}

/** Answers requests by path, without the leading /api/; what has no answer is refused with 404. */
export function serve(answers: Record<string, (body: unknown) => unknown>) {
  const asked: { path: string; body: unknown }[] = []
  vi.stubGlobal(
    'fetch',
    vi.fn(async (url: string, init?: RequestInit) => {
      const path = url.replace('/api/', '')
      const body: unknown = typeof init?.body === 'string' ? JSON.parse(init.body) : undefined
      asked.push({ path, body })
      const answer = answers[path]
      if (!answer) return new Response(JSON.stringify({ error: 'missing', message: `no ${path}` }), { status: 404 })
      const said = await answer(body)
      return said instanceof Response ? said : new Response(JSON.stringify(said))
    }),
  )
  return asked
}

/** The sample line-up as the server sends it: the line-up's own part, and the stages by their hash. */
export function sampleSent(meta = sampleMeta()): { meta: LineUpMeta; stages: Stages } {
  const within = <T,>(record: Record<string, T>, place: string): Record<string, T> =>
    Object.fromEntries(
      Object.entries(record)
        .filter(([key]) => key.startsWith(`${place}.`))
        .map(([key, value]) => [key.split('.')[1]!, value]),
    )
  const { figures, choices, checks, picks, groups, ...own } = meta
  const stages = Object.fromEntries(
    meta.places.map((p) => [
      p.stage,
      {
        title: p.title,
        path: p.path,
        groups: groups[p.stage] ?? [],
        figures: within(figures, p.name) as StageMeta['figures'],
        choices: within(choices, p.name),
        checks: within(checks, p.name),
        picks: within(picks, p.name),
      },
    ]),
  )
  const placed = (key: string) => ({ key, place: key.split('.')[0]!, name: key.split('.')[1]! })
  return {
    stages: { hash: 'abc', stages },
    meta: {
      ...own,
      stages: 'abc',
      extra: {},
      order: Object.keys(figures),
      checks: Object.entries(checks).map(([key, c]) => ({
        ...placed(key),
        demand: c.demand,
        capability: c.capability,
      })),
      picks: Object.entries(picks).map(([key, p]) => ({ ...placed(key), published: p.published })),
    },
  }
}

/** A sheet of the sample line-up as the server sends it. */
export function sampleColumns(sheet = sampleSheet(), meta = sampleMeta()): Columns {
  return {
    values: Object.keys(meta.figures).map((key) => {
      const values = sheet.figures[key]?.values ?? [null]
      return values.length === 1 ? values[0]! : values
    }),
    pinned: {},
    picks: Object.keys(meta.picks).map((key) => sheet.picks[key]!),
    checks: Object.keys(meta.checks).map((key) => sheet.checks[key]!),
    passes: sheet.passes,
    open: null,
  }
}

/** The answers of a server that knows the sample line-up. */
export const lineUpServed = (meta = sampleMeta()) => ({
  'lineups/sample?loads=load_1': () => sampleSent(meta).meta,
  'stages/abc': () => sampleSent(meta).stages,
  lineups: () => [{ id: 'sample', title: 'Sample', sample: false, parts: [] }],
})
