import { afterEach, describe, expect, test, vi } from 'vitest'
import { call, Refused } from '../src/api'

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
