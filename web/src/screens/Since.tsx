/** What changed since a revision: what was typed, what became of it, and how it is judged now. */
import { useQuery } from '@tanstack/react-query'
import { call, type Design } from '../api'
import type { Change } from '../api/schema'
import { placeTitle } from '../state/figures'
import { useSelected } from '../state/sheet'
import { useProject, useWorkspace } from '../state/workspace'
import { Scroll } from '../ui/Scroll'

const KINDS: Record<Change['kind'], string> = {
  'line-up': 'line-up',
  load: 'loads',
  given: 'given',
  choice: 'chosen',
  pin: 'pinned',
  part: 'part',
  decision: 'decided',
  judgement: 'judged',
  total: 'in all',
}

export function Since({ revision }: { revision: number }) {
  const { project } = useProject('project')
  const { design } = useWorkspace('design')
  const meta = useSelected((s) => s.meta)
  const told = useQuery({
    queryKey: ['changes', project.id, revision, JSON.stringify(design)],
    queryFn: async () => {
      const { design: since } = await call<{ design: Design }>(`projects/${project.id}/revisions/${revision}`)
      return call<Change[]>('changes', { body: { design, since } })
    },
  })
  if (told.error) return <p className="wrong">{told.error.message}</p>
  if (!told.data) return <p className="quiet">Solving both …</p>
  if (told.data.length === 0) return <p data-testid="since">Nothing is otherwise than in revision {revision}.</p>
  return (
    <section data-testid="since">
      <h2 className="cap" style={{ marginTop: 20 }}>
        Since revision {revision}
      </h2>
      <Scroll of={`Changes since revision ${revision}`}>
        <table className="table">
          <thead>
            <tr>
              <th scope="col">What</th>
              <th scope="col">Where</th>
              <th scope="col">Name</th>
              <th scope="col">Was</th>
              <th scope="col">Is</th>
            </tr>
          </thead>
          <tbody>
            {told.data.map((c, i) => (
              <tr key={i} data-kind={c.kind}>
                <td className="quiet">{KINDS[c.kind]}</td>
                <td>{c.place && placeTitle(meta, design.loads, c.place)}</td>
                <td>{c.title}</td>
                <td>{c.before}</td>
                <td>
                  <b>{c.after}</b>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
    </section>
  )
}
