import { afterEach, describe, expect, test, vi } from 'vitest'
import {
  call,
  Refused,
  type CheckMeta,
  type CheckValue,
  type Design,
  type LineUpMeta,
  type PlaceMeta,
  type Sheet,
  type Verdict,
} from '../src/api'
import { checksOf, placeVerdict, telling } from '../src/state/figures'

const answering = (status: number, body: string) =>
  vi.stubGlobal(
    'fetch',
    vi.fn(() => Promise.resolve(new Response(body, { status, statusText: 'Gone wrong' }))),
  )
const refusal = (path = 'health') =>
  call(path).then(
    () => {
      throw new Error('was not refused')
    },
    (error: unknown) => error as Refused,
  )
afterEach(() => {
  vi.unstubAllGlobals()
})

describe('asking the server', () => {
  test('an answer comes back as it is', async () => {
    answering(200, '{"version": "1", "database": "up"}')
    expect(await call('health')).toEqual({ version: '1', database: 'up' })
    expect(vi.mocked(fetch).mock.calls[0]).toMatchObject([
      '/api/health',
      { method: 'GET', headers: {}, body: undefined },
    ])
  })
  test('what is sent goes as JSON, by POST unless told otherwise', async () => {
    answering(200, '{}')
    await call('projects', { body: { title: 'Ω ≈ 4' } })
    await call('projects/1/draft', { method: 'PUT', body: { base: 2 } })
    await call('projects/import', { text: '{"as": "typed"}' })
    const [first, second, third] = vi.mocked(fetch).mock.calls.map((c) => c[1]!)
    expect(first).toMatchObject({
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{"title":"Ω ≈ 4"}',
    })
    expect(second).toMatchObject({ method: 'PUT', body: '{"base":2}' })
    expect(third).toMatchObject({ method: 'POST', body: '{"as": "typed"}' })
  })
  test('a refusal keeps its status, kind, sentence and all that came with it', async () => {
    answering(409, '{"error": "conflict", "message": "Changed elsewhere", "version": 7}')
    const error = await refusal()
    expect(error).toBeInstanceOf(Refused)
    expect([error.status, error.kind, error.message, error.body.version]).toEqual([
      409,
      'conflict',
      'Changed elsewhere',
      7,
    ])
  })
  test('a refusal that is no JSON still says something', async () => {
    answering(502, '<html>')
    expect((await refusal()).message).toBe('Gone wrong')
  })
  test('a server that is away is told from one that refuses', async () => {
    vi.stubGlobal(
      'fetch',
      vi.fn(() => Promise.reject(new TypeError('Failed to fetch'))),
    )
    const error = await refusal()
    expect([error.status, error.kind]).toEqual([0, 'away'])
    expect(error.message).toContain('What you typed is kept')
  })
  test('a question that was given up is not an error of the server', async () => {
    vi.stubGlobal(
      'fetch',
      vi.fn(() => Promise.reject(new DOMException('aborted', 'AbortError'))),
    )
    expect(await refusal()).not.toBeInstanceOf(Refused)
  })
})

const check = (place: string, demand: string, capability: string): CheckMeta => ({
  place,
  title: '',
  why: '',
  harm: '',
  demand,
  capability,
})
const place = (name: string, stage: string, words: string[]): PlaceMeta =>
  ({ name, title: name, stage, section: '', host: null, path: true, telling: words, caution: '' }) as PlaceMeta
const meta = {
  places: [],
  figures: {
    'front.peak_current': { name: 'peak_current', unit: 'A' },
    'transformer.primary_turns': { name: 'primary_turns', unit: '' },
    'transformer.secondary_turns': { name: 'secondary_turns', unit: '' },
  },
  choices: {
    'bridge.modulation': {
      place: 'bridge',
      name: 'modulation',
      title: '',
      sentence: '',
      default: 'unipolar',
      options: { unipolar: 'three levels', bipolar: 'two levels' },
    },
  },
  checks: {
    'front.peak': check('front', 'front.peak_current', 'front.rating'),
    'front.heat': check('front', 'front.rise', 'front.allowed'),
    'link.volts': check('link', 'link.crest', 'link.rating'),
  },
  picks: { 'front.switch': { place: 'front', title: '', sentence: '', type: 'switch', published: [] } },
} as unknown as LineUpMeta
const value = (verdicts: Verdict[], verdict: Verdict): CheckValue => ({
  margin: [],
  verdicts,
  verdict,
  worst: 'a',
  fail: 1,
  hold: 1,
  harm: '',
  sentence: '',
  no_demand: false,
})
const sheet = (fits = true, quantity = 2): Sheet =>
  ({
    corners: [
      { id: 'a', title: 'a' },
      { id: 'b', title: 'b' },
    ],
    figures: {
      'front.peak_current': { values: [40, 60] },
      'transformer.primary_turns': { values: [4] },
      'transformer.secondary_turns': { values: [72] },
    },
    checks: {
      'front.peak': value(['holds', 'tight'], 'tight'),
      'front.heat': value(['holds', 'holds'], 'holds'),
      'link.volts': value(['fails', 'holds'], 'fails'),
    },
    picks: {
      'front.switch': {
        part: 'N100-8',
        quantity,
        record: {},
        fits,
        pinned: false,
        tightest: { need: '', margin: 1 },
        runners_up: [],
      },
    },
    passes: { outer: 1, inner: 1, alternating: [] },
  }) as unknown as Sheet
const design = (choices: Record<string, string> = {}) => ({ choices }) as unknown as Design

describe('what the line shows of a stage', () => {
  test('the worst of its own checks, at the corner that is looked at or over all', () => {
    expect([
      placeVerdict(meta, sheet(), 'front'),
      placeVerdict(meta, sheet(), 'front', 0),
      placeVerdict(meta, sheet(), 'front', 1),
    ]).toEqual(['tight', 'holds', 'tight'])
    expect([placeVerdict(meta, sheet(), 'link', 0), placeVerdict(meta, sheet(), 'link', 1)]).toEqual(['fails', 'holds'])
  })
  test('a part that does not fit is never shown as holding', () => {
    expect(placeVerdict(meta, sheet(false), 'front', 0)).toBe('tight')
  })
  test('parts with their number, turns as a ratio, a choice in words, a figure with its unit', () => {
    expect(telling(meta, sheet(), design(), place('front', 'front_end', ['switch', 'peak_current']), 1)).toBe(
      '2×N100-8 · 60\u2009A',
    )
    expect(telling(meta, sheet(true, 1), design(), place('front', 'front_end', ['switch']), 1)).toBe('N100-8')
    expect(
      telling(meta, sheet(), design(), place('transformer', 'transformer', ['primary_turns', 'secondary_turns']), 0),
    ).toBe('4 : 72')
    expect(telling(meta, sheet(), design(), place('bridge', 'h_bridge', ['modulation']), 0)).toBe('three levels')
    expect(
      telling(
        meta,
        sheet(),
        design({ 'bridge.modulation': 'bipolar' }),
        place('bridge', 'h_bridge', ['modulation']),
        0,
      ),
    ).toBe('two levels')
  })
  test('a figure leads to the checks that it takes part in, from either side', () => {
    expect(checksOf(meta, 'front.peak_current')).toEqual(['front.peak'])
    expect(checksOf(meta, 'link.rating')).toEqual(['link.volts'])
    expect(checksOf(meta, 'front.nothing')).toEqual([])
  })
})
