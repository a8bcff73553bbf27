import { useProject } from '../state/workspace'

/** The decisions on record, with their reasons; `none` stands where there are none yet. */
export function Decisions({ none }: { none: string }) {
  const { project } = useProject('project')
  if (project.decisions.length === 0) return <p className="quiet">{none}</p>
  return project.decisions.map((d) => (
    <div className="judge" key={d.id}>
      <p>
        <b>{d.title}</b>{' '}
        <span className="quiet">
          rev {d.revision}, {d.author}
        </span>
      </p>
      <p>{d.reason}</p>
    </div>
  ))
}
