/** Where one is, how it stands with saving, the views, and the tools that are always at hand. */
import { memo } from 'react'
import { Link, NavLink } from 'react-router'
import { heldFor } from '../../state/moves'
import { useOpened, useProject, useWorked, useWorkspace } from '../../state/workspace'
import { LookButton } from '../../ui/LookButton'
import { Logo } from '../../ui/Mark'
import type { Dialog } from './useKeys'
import { OF_THE_WHOLE, TABS, usePartOnly } from './views'

export function TopBar({ show }: { show: (dialog: Dialog) => void }) {
  const { base, undo, canUndo, redo, canRedo } = useWorkspace('base', 'undo', 'canUndo', 'redo', 'canRedo')
  const title = useWorked((w) => w.design.title)
  return (
    <header className="top">
      <Link className="name" to="/" aria-label="Rhombos, to the shelf">
        <Logo />
        Rhombos
      </Link>
      <h1 className="title" title={title}>
        {title}
      </h1>
      <SaveButton show={show} />
      <HeldChip />
      <Tabs base={base} />
      <div className="tools">
        <button className="tool" onClick={undo} disabled={!canUndo} aria-label="Undo">
          undo
        </button>
        <button className="tool" onClick={redo} disabled={!canRedo} aria-label="Redo">
          redo
        </button>
        <button className="tool" onClick={() => show('finder')}>
          / find
        </button>
        <button className="tool" onClick={() => show('keys')}>
          ? keys
        </button>
        <LookButton />
      </div>
    </header>
  )
}

const Tabs = memo(function Tabs({ base }: { base: string }) {
  const part = usePartOnly()
  return (
    <nav className="tabs" aria-label="Views">
      {TABS.filter(([path]) => !part || !OF_THE_WHOLE.has(path)).map(([path, name]) => (
        <NavLink key={path} to={`${base}/${path}`} className={({ isActive }) => (isActive ? 'active' : '')}>
          {name}
        </NavLink>
      ))}
    </nav>
  )
})

/** That a build is held is told on every screen; it leads to where it can be let go. */
function HeldChip() {
  const { base } = useWorkspace('base')
  const held = useWorked((w) => heldFor(w.design))
  if (held === null) return null
  return (
    <Link className="state" to={`${base}/build`} title={`Every decision and part is held: ${held}`}>
      build held
    </Link>
  )
}

function SaveButton({ show }: { show: (dialog: Dialog) => void }) {
  const { save, retry } = useProject('save', 'retry')
  const head = useOpened((p) => p.project.head)
  if (save.kind === 'away')
    return (
      <button className="state away" onClick={retry} title={save.message}>
        not saved · kept here · try now
      </button>
    )
  if (save.kind === 'refused')
    return (
      <button className="state away" onClick={retry} title={save.message}>
        not saved · refused · try again
      </button>
    )
  const words = { saving: 'saving …', conflict: 'two sides', saved: 'draft saved' }[save.kind]
  return (
    <button className="state" onClick={() => show('revision')} title="Save as a revision">
      rev {head} · {words}
    </button>
  )
}
