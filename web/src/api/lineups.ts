/** Line-ups and stages as the server declares them: asked for once, kept for as long as the page is open. */
import type { QueryClient } from '@tanstack/react-query'
import { call, type Design } from '.'
import type { LineUpMeta, StageMeta, Stages } from './schema'
import { lineUpOf, type LineUpSent } from './sheet'

const FOR_EVER = { staleTime: Infinity, gcTime: Infinity }

/** The line-up of a design. Its stages come by their hash: another line-up, or a load more, does not bring them again. */
export function lineUpFor(
  client: QueryClient,
  { lineup, loads }: Pick<Design, 'lineup' | 'loads'>,
): Promise<LineUpSent> {
  const rows = loads.map((l) => l.place).join(',')
  return client.fetchQuery({
    queryKey: ['lineup', lineup, rows],
    queryFn: async () => {
      const meta = await call<LineUpMeta>(`lineups/${lineup}?loads=${rows}`)
      return { meta, lineup: lineUpOf(meta, await stagesFor(client, meta.stages)) }
    },
    ...FOR_EVER,
  })
}

async function stagesFor(client: QueryClient, hash: string): Promise<Record<string, StageMeta>> {
  const sent = await client.fetchQuery({
    queryKey: ['stages', hash],
    queryFn: () => call<Stages>(`stages/${hash}`),
    ...FOR_EVER,
  })
  return sent.stages
}
