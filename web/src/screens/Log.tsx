/** The record: revisions, decisions, and the design as a file. */
import { Button } from '@chakra-ui/react'
import { useState } from 'react'
import { call, type Design } from '../api'
import { useProject, useWorkspace } from '../state/workspace'
import { Since } from './Since'
import { Decisions } from '../ui/Decisions'
import { saveText } from '../ui/save'

export default function Log() {
  const { project } = useProject('project')
  const { design } = useWorkspace('design')
  const save = () => saveText(`${JSON.stringify(design, null, 2)}\n`, `${design.title}.json`, 'application/json')
  return (
    <main className="page">
      <div className="split">
        <section>
          <h2 className="cap">
            Revisions <span className="filter">append-only</span>
          </h2>
          <Revisions />
        </section>
        <aside>
          <h2 className="cap">Design file</h2>
          <p className="quiet">
            Everything that makes this sheet, as one open JSON file. It imports on any shelf and solves on the command
            line.
          </p>
          <p>
            <Button variant={'copper' as never} onClick={save}>
              Export the draft
            </Button>
          </p>
          <h2 className="cap" style={{ marginTop: 20 }}>
            Decisions
          </h2>
          <Decisions none="None yet: record one under Line-up." />
          {project.catalogue_changes.length > 0 && (
            <h2 className="cap" style={{ marginTop: 20 }}>
              Catalogue
            </h2>
          )}
          {project.catalogue_changes.map((c) => (
            <p key={c.pick} className="wrong">
              {c.part} {c.what}
            </p>
          ))}
        </aside>
      </div>
    </main>
  )
}

function Revisions() {
  const { project } = useProject('project')
  const { edit } = useWorkspace('edit')
  const [said, setSaid] = useState('')
  const [since, setSince] = useState<number | null>(null)
  const open = (number: number) => {
    call<{ design: Design }>(`projects/${project.id}/revisions/${number}`)
      .then((r) => {
        edit(`Opened revision ${number}`, () => r.design)
        setSaid(`Revision ${number} is now the draft; undo brings back what was here.`)
      })
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  }
  return (
    <>
      <table className="table">
        <thead>
          <tr>
            <th>No.</th>
            <th>Message</th>
            <th>By</th>
            <th>When (UTC)</th>
            <th>
              <span className="sr">Open or export</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {project.revisions.map((r) => (
            <tr key={r.number} className={r.number === project.head ? 'chosen' : ''}>
              <td className="num">{r.number}</td>
              <td>{r.message}</td>
              <td>{r.author}</td>
              <td className="num">{r.created.replace('T', ' ')}</td>
              <td>
                <button className="act" onClick={() => open(r.number)}>
                  Open
                </button>{' '}
                ·{' '}
                <a className="act" href={`/api/projects/${project.id}/revisions/${r.number}/file`} download>
                  File
                </a>{' '}
                ·{' '}
                <button
                  className="act"
                  aria-expanded={since === r.number}
                  onClick={() => setSince(since === r.number ? null : r.number)}>
                  What changed since
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p role="status" className="quiet">
        {said}
      </p>
      {since !== null && <Since revision={since} />}
    </>
  )
}
