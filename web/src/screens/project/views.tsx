/** The views of a project, told once: the bar, the routes, the finder and the foot read them here. */
import { lazy, type ComponentType } from 'react'
import { useWorked } from '../../state/workspace'
import { Brief } from '../brief/Brief'

interface View {
  path: string
  title: string
  screen: ComponentType
}

const PartOnly = lazy(() => import('../PartOnly'))

/** Whether the design is of a part only, without loads. */
export const usePartOnly = () => useWorked((w) => w.design.loads.length === 0)

/** What needs a load list; a part of a line-up shows what is given at its joint instead. */
function whole(Screen: ComponentType): ComponentType {
  return function Whole() {
    return usePartOnly() ? <PartOnly /> : <Screen />
  }
}

/** The stages are a view of their own kind: one for every place. */
export const STAGES = 'stages'
export const VIEWS: View[] = [
  { path: 'brief', title: 'Brief', screen: whole(Brief) },
  { path: 'line-up', title: 'Line-up', screen: whole(lazy(() => import('../LineUps'))) },
  { path: 'scope', title: 'Scope', screen: whole(lazy(() => import('../scope/Scope'))) },
  { path: 'build', title: 'Build', screen: lazy(() => import('../build/Build')) },
  { path: 'log', title: 'Log', screen: lazy(() => import('../Log')) },
]
/** Views that a part of a line-up does not have. */
export const OF_THE_WHOLE = new Set(['line-up', 'scope'])
/** In the order of the bar. */
export const TABS: [string, string][] = VIEWS.flatMap(({ path, title }): [string, string][] =>
  path === 'scope'
    ? [
        [STAGES, 'Stages'],
        [path, title],
      ]
    : [[path, title]],
)
