// A reader’s own notes: words that are marked in the text go into the form of notes,
// and the words of kept notes are shown where they stand.
'use strict'
;(() => {
  const article = document.getElementById('reading'), box = document.querySelector('[data-marginform]')
  if (!article || !box) return
  const form = box.querySelector('form')
  const nodes = at => {
    const walk = document.createTreeWalker(at, NodeFilter.SHOW_TEXT), out = []
    while (walk.nextNode()) out.push(walk.currentNode)
    return out
  }
  // where an offset into the text of an answer lies: its node, and the offset there
  const place = (at, offset) => {
    let left = offset
    for (const n of nodes(at)) {
      if (left <= n.length) return [n, left]
      left -= n.length
    }
  }
  const spots = []
  for (const li of document.querySelectorAll('[data-margin]')) {
    const at = article.querySelector(`[data-q="${CSS.escape(li.dataset.question)}"]`), quote = li.dataset.quote
    if (!at || !quote) continue
    let from = -1
    for (let i = 0; i <= Number(li.dataset.nth); i++) from = at.textContent.indexOf(quote, from + 1)
    if (from < 0) continue
    const a = place(at, from), b = place(at, from + quote.length), range = new Range()
    range.setStart(...a); range.setEnd(...b)
    spots.push(range)
    li.querySelector('q').addEventListener('click', () => a[0].parentElement.scrollIntoView({ block: 'center' }))
  }
  if (spots.length && CSS.highlights) CSS.highlights.set('margin', new Highlight(...spots))
  const offer = document.createElement('button')
  offer.type = 'button'; offer.className = 'btn small noting'; offer.textContent = 'Note this'; offer.hidden = true
  document.body.append(offer)
  let found
  document.addEventListener('selectionchange', () => {
    const sel = getSelection()
    const at = sel.rangeCount && !sel.isCollapsed && sel.anchorNode?.parentElement?.closest('[data-q]')
    offer.hidden = true
    if (!at || !article.contains(at) || !at.contains(sel.focusNode)) return
    const range = sel.getRangeAt(0), before = new Range()
    before.setStart(at, 0); before.setEnd(range.startContainer, range.startOffset)
    const from = before.toString().length, quote = at.textContent.slice(from, from + range.toString().length).slice(0, 2000)
    if (!quote.trim()) return
    let nth = 0
    for (let i = at.textContent.indexOf(quote); i >= 0 && i < from; i = at.textContent.indexOf(quote, i + 1)) nth++
    found = { question: at.dataset.q, quote, nth }
    const rect = range.getBoundingClientRect()
    offer.style.left = `${Math.max(8, Math.min(innerWidth - 110, rect.left))}px`
    offer.style.top = `${Math.max(8, rect.bottom + 6)}px`
    offer.hidden = false
  })
  offer.addEventListener('pointerdown', e => e.preventDefault()) // the words stay marked
  offer.addEventListener('click', () => {
    box.open = true
    for (const [name, value] of Object.entries(found)) form.elements[name].value = value
    offer.hidden = true
    form.elements.margin.focus()
  })
})()
