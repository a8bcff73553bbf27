/** The keys of a project: undo and redo everywhere, single letters while no field has the focus. */
import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { call, type LineUpRow } from '../../api'
import { lettersOn, meantForPage } from '../../state/keys'
import { lineUp } from '../../state/moves'
import { useNow } from '../../state/workspace'
import { actOf, CORNER_KEYS } from '../../ui/keyTable'

export type Dialog = 'keys' | 'finder' | 'revision' | null

/** The line-ups that there are, in their order. */
export const useLineUps = () =>
  useQuery({ queryKey: ['lineups'], queryFn: () => call<LineUpRow[]>('lineups'), staleTime: Infinity }).data ?? []

export function useKeys(show: (dialog: Dialog) => void): void {
  const now = useNow()
  const lineups = useLineUps()
  const navigate = useNavigate()
  const { pathname } = useLocation()
  useEffect(() => {
    const undoOrRedo = (e: KeyboardEvent): boolean => {
      const key = e.key.toLowerCase()
      if (!(e.ctrlKey || e.metaKey) || (key !== 'z' && key !== 'y')) return false
      // What is being typed somewhere is that field's own to undo; one whose value has been taken is left, and shows the design's again.
      const field =
        e.target instanceof Element
          ? e.target.closest<HTMLElement>('input, textarea, [role=dialog], [role=alertdialog]')
          : null
      if (field && field.dataset.clean === undefined) return false
      field?.blur()
      if (key === 'y' || e.shiftKey) now().redo()
      else now().undo()
      return true
    }
    const walk = (way: 1 | -1) => {
      const { meta, base } = now()
      const stages = meta?.places.filter((p) => p.section !== 'loads' && p.section !== 'whole') ?? []
      const here = stages.findIndex((p) => p.name === pathname.split('/')[4])
      const next = stages.at(here < 0 ? 0 : (here + way) % stages.length)
      if (next) void navigate(`${base}/stages/${next.name}`)
    }
    const swap = () => {
      const { design, edit } = now()
      const here = lineups.findIndex((l) => l.id === design.lineup)
      const next = lineups[(here + 1) % lineups.length]
      if (next) edit(`Swapped to: ${next.title}`, lineUp(next.id))
    }
    const letter = (e: KeyboardEvent): boolean => {
      if (!meantForPage(e) || !lettersOn()) return false
      switch (actOf(e.key)) {
        case 'walk':
          walk(e.key === ']' ? 1 : -1)
          return true
        case 'corner': {
          const [corner, { meta, setCorner }] = [CORNER_KEYS.indexOf(e.key), now()]
          if (corner < (meta?.corners.length ?? 0)) setCorner(corner)
          return true
        }
        case 'lineup':
          swap()
          return true
        case 'revision':
          show('revision')
          return true
        case 'finder':
          show('finder')
          return true
        case 'list':
          show('keys')
          return true
        default:
          return false
      }
    }
    const onKey = (e: KeyboardEvent) => {
      if (undoOrRedo(e) || letter(e)) e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [now, lineups, navigate, pathname, show])
}
