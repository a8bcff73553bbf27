/** Keys, finder, saving a revision, and the two sides of a conflict. */
import { Button } from '@chakra-ui/react'
import { memo, useState } from 'react'
import { differences } from '../state/differences'
import { lettersOn, switchLetters } from '../state/keys'
import type { SaveState } from '../state/draft/keeper'
import { useOpened, useProject, useWorkspace } from '../state/workspace'
import { VIEWS } from '../screens/project/views'
import { Ask } from './Ask'
import { walk } from './arrows'
import { keyRows } from './keyTable'

export const KeysDialog = memo(function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [on, setOn] = useState(lettersOn)
  return (
    <Ask open={open} onClose={onClose} title="Keys">
      <table className="table">
        <tbody>
          {keyRows.map(({ keys, what }) => (
            <tr key={what}>
              <td>
                <kbd className="line1">{keys.join(' ')}</kbd>
              </td>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        <label>
          <input
            type="checkbox"
            checked={on}
            onChange={(e) => {
              setOn(e.target.checked)
              switchLetters(e.target.checked)
            }}
          />{' '}
          Single letters act while no field has the focus
        </label>
      </p>
    </Ask>
  )
})

export const FinderDialog = memo(function FinderDialog({
  open,
  onClose,
  go,
}: {
  open: boolean
  onClose: () => void
  go: (path: string) => void
}) {
  const { meta } = useWorkspace('meta')
  const [words, setWords] = useState('')
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const places = new Map(meta?.places.map((p) => [p.name, p.title]))
  const all = [
    ...VIEWS.map(({ path, title }) => ({ path, title, where: 'view' })),
    ...(meta?.places ?? [])
      .filter((p) => p.section !== 'loads')
      .map((p) => ({ path: `stages/${p.name}`, title: p.title, where: 'stage' })),
    ...Object.entries(meta?.figures ?? {})
      .filter(([, f]) => f.kind !== 'published' && f.kind !== 'renamed' && places.has(f.place))
      .map(([k, f]) => ({
        path: `stages/${f.place}?figure=${k}`,
        title: f.title,
        where: places.get(f.place) ?? f.place,
      })),
  ]
  const found = all.filter((r) => wanted.every((x) => `${r.title} ${r.where}`.toLowerCase().includes(x))).slice(0, 12)
  return (
    <Ask open={open} onClose={onClose} title="Find a stage or a figure">
      <div onKeyDown={(e) => walk(e, 'input, .near button')}>
        <input
          autoFocus
          style={{ width: '100%' }}
          value={words}
          onChange={(e) => setWords(e.target.value)}
          placeholder="flux, turns, link voltage …"
          aria-label="Words to find"
          onKeyDown={(e) => {
            if (e.key === 'Enter' && found[0]) go(found[0].path)
          }}
        />
        <ul className="near" style={{ marginTop: 10 }}>
          {found.map((r) => (
            <li key={r.path}>
              <button className="act" onClick={() => go(r.path)}>
                {r.title}
              </button>
              <span className="quiet">{r.where}</span>
            </li>
          ))}
        </ul>
        {found.length === 0 && <p className="quiet">Nothing is called that. Try one word less.</p>}
      </div>
    </Ask>
  )
})

export const RevisionDialog = memo(function RevisionDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { saveRevision } = useProject('saveRevision')
  const head = useOpened((p) => p.project.head)
  const [message, setMessage] = useState('')
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const save = () => {
    setBusy(true)
    saveRevision(message.trim())
      .then(() => {
        setMessage('')
        setWrong('')
        onClose()
      })
      .catch((e: unknown) => setWrong(e instanceof Error ? e.message : String(e)))
      .finally(() => setBusy(false))
  }
  return (
    <Ask
      open={open}
      onClose={onClose}
      title={`Save revision ${head + 1}`}
      actions={
        <Button variant={'ink' as never} disabled={busy || !message.trim()} onClick={save}>
          Save the revision
        </Button>
      }>
      <p className="quiet">
        A revision keeps the design as it stands, with the records of its parts. It is never changed later.
      </p>
      <textarea
        aria-label="What this revision is about"
        value={message}
        onChange={(e) => setMessage(e.target.value)}
        placeholder="What changed, and why"
        maxLength={200}
      />
      {wrong && (
        <p className="wrong" role="alert">
          {wrong} Your words are kept.
        </p>
      )}
    </Ask>
  )
})

export function ConflictDialog() {
  const sides = useOpened((p) => (p.save.kind === 'conflict' ? p.save : null))
  return sides && <TwoSides sides={sides} />
}

function TwoSides({ sides }: { sides: Extract<SaveState, { kind: 'conflict' }> }) {
  const { resolve } = useProject('resolve')
  const { design, meta } = useWorkspace('design', 'meta')
  const rows = differences(sides.both, design, sides.theirs.design, meta)
  return (
    <Ask
      open
      onClose={() => undefined}
      mustChoose
      title="Two sides"
      actions={
        <>
          <Button variant={'plain' as never} onClick={() => resolve(false)}>
            Take the other side
          </Button>
          <Button variant={'ink' as never} onClick={() => resolve(true)}>
            Keep what is here
          </Button>
        </>
      }>
      <p>
        The same was edited here and elsewhere. Choose which side goes on; the other stays one step back, by undo. What
        was edited on one side only is brought together.
      </p>
      <ul>
        {rows.slice(0, 12).map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      {rows.length > 12 && <p className="quiet">and {rows.length - 12} more</p>}
    </Ask>
  )
}
