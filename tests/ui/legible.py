"""Text that cannot be read: cut off by what it stands in, or lying on other text."""

from typing import Any

FIND = r"""
const round = r => ({left: r.left, right: r.right, top: r.top, bottom: r.bottom})
const shown = e => {
  const s = getComputedStyle(e)
  for (let box = e; box; box = box.parentElement) if (getComputedStyle(box).clipPath === 'inset(50%)') return false
  return s.visibility === 'visible' && Number(s.opacity) > 0.05 && s.display !== 'none'
}
const scrolls = value => value === 'auto' || value === 'scroll'
// What of a rectangle is left within the boxes around it; a box that scrolls hides nothing for good.
const seen = (element, rect) => {
  const left = {...rect}
  let cut = 0
  let lost = false
  for (let box = element; box && box !== document.body; box = box.parentElement) {
    const s = getComputedStyle(box)
    const b = box.getBoundingClientRect()
    const inside = box !== element || s.display !== 'inline'
    for (const [axis, low, high] of [['overflowX', 'left', 'right'], ['overflowY', 'top', 'bottom']]) {
      if (!inside || s[axis] === 'visible') continue
      const over = Math.max(0, b[low] - left[low]) + Math.max(0, left[high] - b[high])
      if (over <= 0) continue
      if (!scrolls(s[axis])) cut = Math.max(cut, over)
      left[low] = Math.max(left[low], b[low]); left[high] = Math.min(left[high], b[high])
      if (left[high] - left[low] < 1) lost = true
    }
    if (s.position === 'fixed') break
  }
  return {left, cut, lost}
}
const texts = []
const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
for (let node = walk.nextNode(); node; node = walk.nextNode()) {
  const element = node.parentElement
  if (!node.data.trim() || !element || element.closest('script,style,title,option,.sr') || !shown(element)) continue
  if (element.closest('[aria-hidden=true]') && element.closest('.katex')) continue
  const range = document.createRange()
  range.selectNodeContents(node)
  for (const r of range.getClientRects()) {
    if (r.width < 2 || r.height < 2) continue
    const s = seen(element, round(r))
    if (s.lost && s.cut === 0) continue
    texts.push({node, element, text: node.data.trim().slice(0, 40), rect: s.left, cut: s.cut, gone: s.lost})
  }
}
const where = e => (e.closest('[id]')?.id ? '#' + e.closest('[id]').id + ' ' : '') + e.tagName.toLowerCase() + (e.className && e.className.baseVal === undefined ? '.' + String(e.className).split(' ').slice(0, 2).join('.') : e.className?.baseVal ? '.' + e.className.baseVal : '')
const found = []
for (const t of texts) if (t.cut > 2.5) found.push(['cut', where(t.element), t.text, Math.round(t.cut)])
// Fields show what is typed in them: that, too, is to fit.
for (const field of document.querySelectorAll('input:not([type=checkbox]):not([type=radio]):not([type=file]), textarea')) {
  if (!shown(field) || field === document.activeElement || field.getClientRects().length === 0) continue
  if (field.scrollWidth > field.clientWidth + 2 || field.scrollHeight > field.clientHeight + 4) found.push(['cut', where(field), String(field.value).slice(0, 40), Math.max(field.scrollWidth - field.clientWidth, field.scrollHeight - field.clientHeight)])
}
// The chain of backgrounds between a text and what it shares with another: an opaque one covers that other on purpose.
const covers = (a, b) => {
  for (let e = a; e && !e.contains(b); e = e.parentElement) {
    const c = getComputedStyle(e).backgroundColor
    const alpha = c.startsWith('rgba') ? Number(c.split(',')[3]?.replace(')', '')) : c === 'transparent' ? 0 : 1
    if (alpha > 0.9) return true
  }
  return false
}
texts.sort((a, b) => a.rect.top - b.rect.top)
for (let i = 0; i < texts.length; i++) for (let k = i + 1; k < texts.length && texts[k].rect.top < texts[i].rect.bottom; k++) {
  const a = texts[i], b = texts[k]
  if (a.node === b.node || a.gone || b.gone) continue
  const wide = Math.min(a.rect.right, b.rect.right) - Math.max(a.rect.left, b.rect.left)
  const high = Math.min(a.rect.bottom, b.rect.bottom) - Math.max(a.rect.top, b.rect.top)
  const least = Math.min(a.rect.bottom - a.rect.top, b.rect.bottom - b.rect.top)
  if (wide < 2 || high < 0.35 * least) continue
  // Parts of one formula are set by the typesetter, strut on strut.
  const formula = a.element.closest('.katex')
  if (formula && formula === b.element.closest('.katex')) continue
  if (covers(a.element, b.element) || covers(b.element, a.element)) continue
  found.push(['over', where(a.element), a.text + ' | ' + b.text, Math.round(wide)])
}
return found
"""


def illegible(page: Any) -> list[tuple[str, str, str, int]]:
    """What cannot be read on the view as it stands: cut or over other text, where, which text, and by how many pixels."""
    return [tuple(found) for found in page.driver.execute_script(FIND)]
