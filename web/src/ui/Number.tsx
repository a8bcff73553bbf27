import { memo } from 'react'
import { shown } from '../number'

/** A value with its unit; the unit lighter, after a thin space. It is a part of what shows it, not a component of its own. */
export function numbered(value: number | null | undefined, unit: string, digits = 3, pinned = false) {
  const s = shown(value, unit, digits)
  return (
    <span className={pinned ? 'pinned' : undefined}>
      <span className="num">{s.number}</span>
      {s.unit && <span className="unit">{s.unit}</span>}
    </span>
  )
}

const WORDS: [RegExp, string][] = [
  [/\\kappa/g, 'κ'],
  [/\\lambda/g, 'λ'],
  [/\\mu/g, 'µ'],
  [/\\omega/g, 'ω'],
  [/\\Sigma/g, 'Σ'],
  [/\\zeta/g, 'ζ'],
  [/\\theta/g, 'θ'],
  [/\\delta/g, 'δ'],
  [/\\Delta/g, 'Δ'],
  [/\\eta/g, 'η'],
  [/\\xi/g, 'ξ'],
  [/\\tau/g, 'τ'],
  [/\\sigma/g, 'σ'],
  [/\\varphi|\\phi/g, 'φ'],
  [/\\nu/g, 'ν'],
  [/\\iota/g, 'ι'],
  [/\\epsilon/g, 'ε'],
  [/\\rho/g, 'ρ'],
  [/\\alpha/g, 'α'],
  [/\\beta/g, 'β'],
  [/\\sim/g, '∼'],
  [/\\infty/g, '∞'],
  [/\\int/g, '∫'],
  [/\\sum/g, 'Σ'],
  [/\\max/g, 'max '],
  [/\\sqrt/g, '√'],
  [/\\cdot/g, '·'],
]

/** A short TeX symbol as running text with real subscripts; whole formulas are typeset elsewhere. */
export const Symbol = memo(function Symbol({ tex }: { tex: string }) {
  const ratio = tex.match(/^\(?([A-Za-z_]+)\/([A-Za-z_]+)\)?(.*)$/)
  if (ratio)
    return (
      <>
        <Symbol tex={ratio[1]!} />
        <span className="sym">/</span>
        <Symbol tex={`${ratio[2]}${ratio[3]?.startsWith('_') ? `,${ratio[3].slice(1)}` : ''}`} />
      </>
    )
  let plain = tex
    .replace(/\\hat\s*\{?([A-Za-z])\}?/g, '$1\u0302')
    .replace(/\\check\s*\{?([A-Za-z])\}?/g, '$1\u030c')
    .replace(/\\(mathrm|text|tfrac|lfloor|rceil|left|right|,|;|!)/g, '')
    .replace(/\\circ/g, '°')
  for (const [from, to] of WORDS) plain = plain.replace(from, to)
  plain = plain.replace(/\\/g, '')
  const cut = plain.indexOf('_')
  const clean = (s: string) => s.replace(/[{}^]/g, '')
  if (cut < 0) return <span className="sym">{clean(plain)}</span>
  return (
    <span className="sym">
      {clean(plain.slice(0, cut))}
      <sub>{clean(plain.slice(cut + 1)).replace(/_/g, '')}</sub>
    </span>
  )
})

/** A sentence whose quantities (V_p, N_s) stand with real subscripts. */
export const Prose = memo(function Prose({ children }: { children: string }) {
  return children
    .split(/(\b[A-Za-zΔδ]+_[A-Za-z]+\b)/)
    .map((piece, i) => (i % 2 ? <Symbol key={i} tex={piece} /> : piece))
})
