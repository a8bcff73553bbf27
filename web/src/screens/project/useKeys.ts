/** The keys of a project: undo and redo everywhere, single letters while no field has the focus. */
import { KEYS } from '../../ui/Corners'
import { useEffect } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { lettersOn, meantForPage } from '../../state/keys'
import { lineUp } from '../../state/moves'
import { useWorkspace } from '../../state/workspace'

export type Dialog = 'keys' | 'finder' | 'revision' | null
const DIALOGS: Record<string, Dialog> = { '?': 'keys', '/': 'finder', s: 'revision' }
const OTHER_FRONT_END: Record<string, string> = {
  ferrite_push_pull_link_bridge: 'ferrite_bridge_link_bridge',
  ferrite_bridge_link_bridge: 'ferrite_push_pull_link_bridge',
}

export function useKeys(show: (dialog: Dialog) => void): void {
  const w = useWorkspace()
  const navigate = useNavigate()
  const { pathname } = useLocation()
  useEffect(() => {
    const undoOrRedo = (e: KeyboardEvent): boolean => {
      const key = e.key.toLowerCase()
      if (!(e.ctrlKey || e.metaKey) || (key !== 'z' && key !== 'y')) return false
      // The field that has the focus shows what was typed: without it, it shows what the design holds again.
      if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
      if (key === 'y' || e.shiftKey) w.redo()
      else w.undo()
      return true
    }
    const walk = (way: 1 | -1) => {
      const stages = w.meta?.places.filter((p) => p.section !== 'loads' && p.section !== 'whole') ?? []
      const here = stages.findIndex((p) => p.name === pathname.split('/')[4])
      const next = stages.at(here < 0 ? 0 : (here + way) % stages.length)
      if (next) void navigate(`/project/${w.project.id}/stages/${next.name}`)
    }
    const letter = (e: KeyboardEvent): boolean => {
      if (!meantForPage(e) || !lettersOn()) return false
      const dialog = DIALOGS[e.key]
      if (e.key === '[' || e.key === ']') walk(e.key === ']' ? 1 : -1)
      else if (KEYS.includes(e.key) && KEYS.indexOf(e.key) < (w.sheet?.corners.length ?? 0))
        w.setCorner(KEYS.indexOf(e.key))
      else if (dialog) show(dialog)
      else if (e.key === 'f') w.edit('Swapped the front end', (d) => lineUp(OTHER_FRONT_END[d.lineup] ?? d.lineup)(d))
      else return false
      return true
    }
    const onKey = (e: KeyboardEvent) => {
      if (undoOrRedo(e) || letter(e)) e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [w, navigate, pathname, show])
}
