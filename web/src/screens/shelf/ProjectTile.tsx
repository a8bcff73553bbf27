/** A project on the shelf, and what can be done with it. */
import { Button, Menu, Portal } from '@chakra-ui/react'
import { useState } from 'react'
import { Link } from 'react-router'
import type { ProjectRow } from '../../api'
import { Ask } from '../../ui/Ask'
import { Logo } from '../../ui/Mark'
import { useShelf } from './useShelf'

type Asking = 'rename' | 'copy' | 'remove' | null

export function ProjectTile({ project: p }: { project: ProjectRow }) {
  const [asking, setAsking] = useState<Asking>(null)
  const shelf = useShelf()
  const acts: Record<string, () => void> = {
    rename: () => setAsking('rename'),
    copy: () => setAsking('copy'),
    away: () => shelf.put(p, 'away'),
    shelf: () => shelf.put(p, 'shelf'),
    delete: () => shelf.put(p, 'deleted'),
    remove: () => setAsking('remove'),
    archive: () => window.location.assign(`/api/projects/${p.id}/archive`),
  }
  return (
    <li className="tile">
      <Logo />
      <Link className="head" to={`/project/${p.id}/stages`}>
        {p.title}
      </Link>
      <Menu.Root
        // A dialog opens once the menu is gone: the focus that the menu gives back would close it again.
        onSelect={({ value }) => setTimeout(() => acts[value]?.(), 50)}
        positioning={{ placement: 'bottom-end' }}>
        <Menu.Trigger className="tool" aria-label={`More for ${p.title}`}>
          ⋯
        </Menu.Trigger>
        <Portal>
          <Menu.Positioner>
            <Menu.Content>
              {WHAT[p.standing].map(([value, name]) => (
                <Menu.Item key={value} value={value}>
                  {name}
                </Menu.Item>
              ))}
            </Menu.Content>
          </Menu.Positioner>
        </Portal>
      </Menu.Root>
      <span className="quiet">
        Revision {p.head}: {p.message}
        <br />
        last touched {p.touched.replace('T', ' ').slice(0, 16)} UTC
      </span>
      {(asking === 'rename' || asking === 'copy') && (
        <Title project={p} copy={asking === 'copy'} onClose={() => setAsking(null)} />
      )}
      <Ask
        open={asking === 'remove'}
        onClose={() => setAsking(null)}
        title={`Remove “${p.title}” for good?`}
        actions={
          <Button variant={'ink' as never} onClick={() => void shelf.remove(p).then(() => setAsking(null))}>
            Remove it
          </Button>
        }>
        <p>
          All its revisions, readings and decisions go with it, and nothing brings them back. An archive saved before
          does.
        </p>
      </Ask>
    </li>
  )
}

const KEPT: [string, string][] = [
  ['rename', 'Rename …'],
  ['copy', 'Duplicate …'],
  ['archive', 'Save an archive'],
]
const WHAT: Record<ProjectRow['standing'], [string, string][]> = {
  shelf: [...KEPT, ['away', 'Put away'], ['delete', 'Delete']],
  away: [...KEPT, ['shelf', 'Back on the shelf'], ['delete', 'Delete']],
  deleted: [
    ['shelf', 'Back on the shelf'],
    ['archive', 'Save an archive'],
    ['remove', 'Remove for good …'],
  ],
}

/** A title for the project, or for its copy. */
function Title({ project: p, copy, onClose }: { project: ProjectRow; copy: boolean; onClose: () => void }) {
  const shelf = useShelf()
  const [title, setTitle] = useState(copy ? `${p.title}, copy`.slice(0, 200) : p.title)
  const [busy, setBusy] = useState(false)
  const done = async () => {
    if (busy || !title.trim()) return
    setBusy(true)
    // What was refused is told in a toast; the dialog stays with what was typed.
    await (copy ? shelf.copy : shelf.rename)(p, title.trim()).then(onClose, () => setBusy(false))
  }
  return (
    <Ask
      open
      onClose={onClose}
      title={copy ? `Duplicate “${p.title}”` : `Rename “${p.title}”`}
      actions={
        <Button variant={'ink' as never} disabled={busy || !title.trim()} onClick={() => void done()}>
          {copy ? 'Duplicate' : 'Rename'}
        </Button>
      }>
      <form
        className="fields"
        onSubmit={(e) => {
          e.preventDefault()
          void done()
        }}>
        <label>
          Title
          <input autoFocus value={title} maxLength={200} onChange={(e) => setTitle(e.target.value)} />
        </label>
      </form>
    </Ask>
  )
}
