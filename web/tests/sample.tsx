/** A small made-up design, its line-up and its sheet, and a way to show a screen within them. */
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactElement, ReactNode } from 'react'
import { MemoryRouter } from 'react-router'
import { vi } from 'vitest'
import type {
  CheckMeta,
  CheckValue,
  Design,
  FigureMeta,
  FigureValue,
  LineUpMeta,
  PickValue,
  PlaceMeta,
  Project,
  Sheet,
  Verdict,
} from '../src/api'
import { worse } from '../src/state/figures'
import type { Move } from '../src/state/moves'
import { WorkspaceContext, type Workspace } from '../src/state/workspace'
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
  ...over,
})

export const figure = (key: string, unit: string, over: Partial<FigureMeta> = {}): FigureMeta => {
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
    ...over,
  }
}

export const check = (demand: string, capability: string, over: Partial<CheckMeta> = {}): CheckMeta => ({
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
  worst: 'low',
  fail: 1,
  hold: 1.25,
  harm: 'part',
  sentence: 'It sees 90 V and stands 100 V.',
  no_demand: false,
  ...over,
})

export const pick = (part: string, over: Partial<PickValue> = {}): PickValue => ({
  part,
  quantity: 2,
  record: { description: 'a made-up switch' },
  fits: true,
  pinned: false,
  tightest: { need: 'rated voltage', margin: 1.25 },
  runners_up: [],
  ...over,
})

export const sampleMeta = (over: Partial<LineUpMeta> = {}): LineUpMeta => ({
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
    'front.turns': figure('front.turns', ''),
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
    { from: 'battery', to: 'front', voltage: 'battery.cells', current: 'front.turns', sign: '', tail: 'DC' },
    { from: 'front', to: 'output', voltage: 'output.voltage', current: 'output.voltage', sign: '±', tail: '' },
  ],
  ...over,
})

const values = (...v: (number | null)[]): FigureValue => ({ values: v })

export const sampleSheet = (over: Partial<Sheet> = {}): Sheet => ({
  corners: [
    { id: 'low', title: 'lowest full' },
    { id: 'high', title: 'highest full' },
  ],
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
  draft: { version, base: 1, design, saved: '2026-01-02T10:00:00' },
  revisions: [],
  decisions: [],
  catalogue_changes: [],
})

/** A workspace whose edits are recorded: `after` is what the last edit would make of the design. */
export function sampleWorkspace(over: Partial<Workspace> = {}) {
  const design = over.design ?? sampleDesign()
  const edit = vi.fn<(label: string, move: Move) => void>()
  const workspace: Workspace = {
    project: sampleProject(design),
    design,
    meta: sampleMeta(),
    sheet: sampleSheet(),
    solving: false,
    problem: '',
    solvedIn: 4,
    changed: [],
    former: {},
    dismiss: vi.fn(),
    corner: 0,
    setCorner: vi.fn(),
    edit,
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

export function around(workspace: Workspace | null, path = '/') {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  return ({ children }: { children: ReactNode }) => (
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <MemoryRouter initialEntries={[path]}>
          <WorkspaceContext value={workspace}>{children}</WorkspaceContext>
        </MemoryRouter>
      </QueryClientProvider>
    </ChakraProvider>
  )
}

/** Shows an element within a sample workspace. */
export function show(element: ReactElement, over: Partial<Workspace> = {}, path = '/') {
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
