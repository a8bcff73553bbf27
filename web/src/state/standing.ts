import type { Query } from '@tanstack/react-query'

/**
 * What stands until an answer comes: the last one, if it was about the same thing (the second word of the question);
 * a number of one figure is never shown under the name of another.
 */
export const standing =
  <T>(thing: string) =>
  (old: T | undefined, question?: Pick<Query, 'queryKey'>): T | undefined =>
    question?.queryKey[1] === thing ? old : undefined
