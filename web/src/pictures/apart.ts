/** Labels that would cover one another, moved as little as may be: in their order, `gap` apart at least (least squares, by pooling). */
export function apart(at: number[], gap: number): number[] {
  // Less their own share of the gaps, positions in order need only not fall.
  const pools: { sum: number; count: number }[] = []
  at.forEach((y, i) => {
    pools.push({ sum: y - i * gap, count: 1 })
    for (let last = pools.length - 1; last > 0 && mean(pools[last - 1]!) > mean(pools[last]!); last--) {
      const { sum, count } = pools.pop()!
      pools[last - 1]!.sum += sum
      pools[last - 1]!.count += count
    }
  })
  return pools.flatMap((pool) => Array<number>(pool.count).fill(mean(pool))).map((y, i) => y + i * gap)
}

/** Where a label of a `width` may begin, from `at` on, so that none of the upright `lines` crosses it. */
export function clear(at: number, width: number, lines: number[], gap = 4): number {
  return [...lines]
    .sort((a, b) => a - b)
    .reduce((from, line) => (line > from - gap && line < from + width ? line + gap : from), at)
}

const mean = (pool: { sum: number; count: number }): number => pool.sum / pool.count
