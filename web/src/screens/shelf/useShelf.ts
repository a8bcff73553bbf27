/** What can be done with a project on the shelf. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { call, type ProjectRow } from '../../api'
import { said } from '../../ui/toasts'

export type Standing = ProjectRow['standing']

const DONE: Record<Standing, string> = { shelf: 'is back on the shelf', away: 'is put away', deleted: 'is deleted' }

export const useProjects = () => useQuery({ queryKey: ['projects'], queryFn: () => call<ProjectRow[]>('projects') })

export function useShelf() {
  const client = useQueryClient()
  const then = {
    onSettled: () => client.invalidateQueries({ queryKey: ['projects'] }),
    onError: (error: Error) => said(error.message),
  }
  const change = useMutation({
    mutationFn: ({ id, ...body }: { id: number; title?: string; standing?: Standing }) =>
      call<ProjectRow>(`projects/${id}`, { method: 'PATCH', body }),
    ...then,
  })
  const copy = useMutation({
    mutationFn: ({ id, title }: { id: number; title: string }) =>
      call<{ id: number }>(`projects/${id}/copies`, { body: { title } }),
    onSuccess: (_, { title }) => said(`“${title}” is on the shelf`),
    ...then,
  })
  const remove = useMutation({
    mutationFn: (p: ProjectRow) => call(`projects/${p.id}`, { method: 'DELETE' }),
    onSuccess: (_, p) => said(`“${p.title}” is gone for good`),
    ...then,
  })
  return {
    rename: (p: ProjectRow, title: string) => change.mutateAsync({ id: p.id, title }),
    copy: (p: ProjectRow, title: string) => copy.mutateAsync({ id: p.id, title }),
    remove: (p: ProjectRow) => remove.mutateAsync(p),
    put: (p: ProjectRow, standing: Standing) =>
      change.mutate(
        { id: p.id, standing },
        {
          onSuccess: () =>
            said(`“${p.title}” ${DONE[standing]}`, () => change.mutate({ id: p.id, standing: p.standing })),
        },
      ),
  }
}
