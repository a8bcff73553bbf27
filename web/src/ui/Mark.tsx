/** The rhombus says a verdict by shape first, colour second: filled holds, half tight, hollow fails, dotted unknown. */
import { memo } from 'react'
import type { Verdict } from '../api'

export const TONE: Record<Verdict, string> = {
  holds: 'var(--hold)',
  tight: 'var(--tight)',
  fails: 'var(--fail)',
  unknown: 'var(--slate)',
}

interface RhombusProps {
  x: number
  y: number
  r: number
  verdict: Verdict
}

export const Rhombus = memo(function Rhombus({ x, y, r, verdict }: RhombusProps) {
  const path = `M${x} ${y - r}L${x + r} ${y}L${x} ${y + r}L${x - r} ${y}Z`
  const tone = TONE[verdict]
  return (
    <g>
      <path
        d={path}
        fill={verdict === 'holds' ? tone : 'var(--sheet)'}
        stroke={tone}
        strokeWidth={r > 10 ? 2.4 : 1.6}
        strokeDasharray={verdict === 'unknown' ? '2 2.5' : undefined}
      />
      {verdict === 'tight' && <path d={`M${x - r} ${y}L${x} ${y - r}L${x + r} ${y}Z`} fill={tone} />}
    </g>
  )
})

export const Mark = memo(function Mark({ verdict, size = 15 }: { verdict: Verdict; size?: number }) {
  return (
    <svg className="verdict" width={size} height={size} viewBox="0 0 16 16" role="img" aria-label={verdict}>
      <Rhombus x={8} y={8} r={6.4} verdict={verdict} />
    </svg>
  )
})

export const Logo = memo(function Logo() {
  return (
    <svg width="26" height="26" viewBox="0 0 32 32" aria-hidden="true">
      <path d="M16 3 29 16 16 29 3 16Z" fill="none" stroke="var(--copper)" strokeWidth="4" />
    </svg>
  )
})
