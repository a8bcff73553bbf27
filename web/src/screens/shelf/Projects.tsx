/** The projects on the shelf, those put away, and the deleted; found by name, sorted as wanted. */
import { useState } from 'react'
import type { ProjectRow } from '../../api'
import { ProjectTile } from './ProjectTile'
import { useProjects, type Standing } from './useShelf'

const SORTS = {
  touched: ['last touched', (a: ProjectRow, b: ProjectRow) => b.touched.localeCompare(a.touched)],
  title: ['name', (a: ProjectRow, b: ProjectRow) => a.title.localeCompare(b.title)],
  created: ['newest', (a: ProjectRow, b: ProjectRow) => b.created.localeCompare(a.created) || b.id - a.id],
} as const
type Sort = keyof typeof SORTS

const FOLDS: [Standing, string][] = [
  ['away', 'Put away'],
  ['deleted', 'Deleted'],
]

export function Projects() {
  const projects = useProjects()
  const [words, setWords] = useState('')
  const [sort, setSort] = useState<Sort>('touched')
  const asked = words.toLowerCase().split(/\s+/)
  const found = (projects.data ?? [])
    .filter((p) => asked.every((word) => `${p.title} ${p.message}`.toLowerCase().includes(word)))
    .sort(SORTS[sort][1])
  const standing = (where: Standing) => found.filter((p) => p.standing === where)
  if (projects.error)
    return (
      <p className="wrong" role="alert">
        {projects.error.message}{' '}
        <button className="act" onClick={() => void projects.refetch()}>
          Try again
        </button>
      </p>
    )
  if (projects.data?.length === 0)
    return <p className="quiet">The shelf is empty. Begin with a brief: what shall be fed, and from which battery.</p>
  return (
    <>
      <p className="finding">
        <input
          type="search"
          className="find"
          aria-label="Find a project"
          placeholder="name or message"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
        <label>
          sorted by{' '}
          <select value={sort} onChange={(e) => setSort(e.target.value as Sort)}>
            {Object.entries(SORTS).map(([key, [name]]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
      </p>
      <Tiles rows={standing('shelf')} />
      {words && found.length === 0 && <p className="quiet">No project is called “{words}”.</p>}
      {FOLDS.map(([where, title]) => {
        const rows = standing(where)
        return (
          rows.length > 0 && (
            <details key={where} className="fold">
              <summary>
                {title} {rows.length}
              </summary>
              <Tiles rows={rows} />
            </details>
          )
        )
      })}
    </>
  )
}

const Tiles = ({ rows }: { rows: ProjectRow[] }) => (
  <ul className="shelf">
    {rows.map((p) => (
      <ProjectTile key={p.id} project={p} />
    ))}
  </ul>
)
