/** The views of a project, told once: the bar, the routes, the finder and the foot read them here. */
import { lazy, type ComponentType } from 'react'
import { Brief } from '../brief/Brief'

interface View {
  path: string
  title: string
  screen: ComponentType
}

/** The stages are a view of their own kind: one for every place. */
export const STAGES = 'stages'
export const VIEWS: View[] = [
  { path: 'brief', title: 'Brief', screen: Brief },
  { path: 'line-up', title: 'Line-up', screen: lazy(() => import('../LineUps')) },
  { path: 'scope', title: 'Scope', screen: lazy(() => import('../scope/Scope')) },
  { path: 'build', title: 'Build', screen: lazy(() => import('../build/Build')) },
  { path: 'log', title: 'Log', screen: lazy(() => import('../Log')) },
]
/** In the order of the bar. */
export const TABS: [string, string][] = VIEWS.flatMap(({ path, title }): [string, string][] =>
  path === 'scope'
    ? [
        [STAGES, 'Stages'],
        [path, title],
      ]
    : [[path, title]],
)
