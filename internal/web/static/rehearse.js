// The rehearsal: dragging "now" shows what has happened by then.
'use strict'
;(() => {
  const root = document.getElementById('rehearsal'), now = document.getElementById('now')
  if (!root || !now) return
  const from = Date.parse(root.dataset.from), to = Date.parse(root.dataset.to)
  const list = [...document.querySelectorAll('#play li')].map(li => ({ li, at: Date.parse(li.dataset.at) }))
  const when = document.getElementById('when'), count = document.getElementById('count')
  const show = () => {
    const share = now.value / now.max, at = from + (to - from) * share
    let n = 0, last = null
    for (const e of list) {
      const past = e.at <= at
      e.li.classList.toggle('ahead', !past)
      if (past) { n++; last = e.li }
    }
    count.textContent = `${n} of ${list.length}`
    when.textContent = new Date(at).toLocaleString('en-GB', { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
    document.querySelectorAll('[data-mark]').forEach(m => { m.style.left = `${share * 100}%` })
    if (last) { const box = document.getElementById('play'); box.scrollTop = last.offsetTop - box.offsetTop - box.clientHeight + last.clientHeight }
    root.dataset.shown = n
  }
  now.addEventListener('input', show)
  show()
})()
