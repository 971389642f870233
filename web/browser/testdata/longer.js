// Makes the words of a page longer by 40 % and accented, as those of another language may be, and tells what bursts: a page
// wider than its window, words cut off, words that stand out of their box. Codes, figures and drawings keep theirs.
(() => {
  const accented = { a: 'á', e: 'ë', i: 'î', o: 'ö', u: 'ü', A: 'Å', E: 'É', I: 'Ï', O: 'Ø', U: 'Ü', n: 'ñ', c: 'ç' }
  const longer = (word) => [...word].map((c) => accented[c] ?? c).join('') + 'ëñöšıäœüßéîå'.slice(0, Math.ceil(word.length * 0.4))
  const texts = []
  for (const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT); walk.nextNode();) texts.push(walk.currentNode)
  for (const node of texts) {
    if (node.parentElement.closest('script, style, svg, .mono, code, kbd, textarea')) continue
    node.textContent = node.textContent.replace(/\p{L}{2,}/gu, longer)
  }
  const bad = []
  const root = document.documentElement
  if (root.scrollWidth > root.clientWidth) bad.push(`${root.scrollWidth - root.clientWidth} px wider than the window`)
  const range = document.createRange()
  const rightOf = (node) => { range.selectNodeContents(node); return range.getBoundingClientRect().right }
  for (const box of document.querySelectorAll('body *')) {
    if (box.closest('svg, .sr') || box.matches('input, select, textarea') || !box.checkVisibility({ visibilityProperty: true })) continue
    const own = [...box.childNodes].filter((node) => node.nodeType === Node.TEXT_NODE && node.textContent.trim())
    const style = getComputedStyle(box)
    const words = box.textContent.trim().slice(0, 40)
    if (box.clientWidth > 0 && box.scrollWidth > box.clientWidth + 1 && /hidden|clip/.test(style.overflowX) && style.textOverflow !== 'ellipsis') bad.push(`cut off: ${words}`)
    if (own.length === 0 || style.display === 'inline' || box.closest('.scroll, .drawing, [class*=overflow-x]')) continue
    const out = Math.max(...own.map(rightOf)) - box.getBoundingClientRect().right
    if (out > 2) bad.push(`${Math.round(out)} px out of its box: ${words}`)
  }
  return bad
})()
