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

const mean = (pool: { sum: number; count: number }): number => pool.sum / pool.count
