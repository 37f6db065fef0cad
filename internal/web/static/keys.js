// Keys: / finds, ? lists the keys, j and k move in a list, Enter opens, g then
// a letter goes to a desk.
'use strict'
;(() => {
  const busy = t => t.closest('input:not([type=radio]):not([type=checkbox]), textarea, select, dialog')
  let g = 0
  const rows = () => [...document.querySelectorAll('[data-rows] > tr, [data-rows] > tbody > tr, [data-rows] > li')].filter(r => r.querySelector('a.main'))
  const move = by => {
    const all = rows(), now = all.findIndex(r => r.classList.contains('at'))
    const next = all[Math.max(0, Math.min(all.length - 1, now < 0 ? (by > 0 ? 0 : all.length - 1) : now + by))]
    if (!next) return
    all[now]?.classList.remove('at')
    next.classList.add('at')
    next.querySelector('a.main').focus()
    next.scrollIntoView({ block: 'nearest' })
  }
  const list = () => {
    let d = document.getElementById('keylist')
    if (!d) {
      d = document.createElement('dialog')
      d.id = 'keylist'
      const h = document.createElement('h2'); h.textContent = 'Keys'; d.append(h)
      const dl = document.createElement('dl')
      const go = [...document.querySelectorAll('[data-go]')].map(a => ['g ' + a.dataset.go, a.firstChild.textContent.trim()])
      for (const [k, s] of [['/', 'find'], ['j k', 'down and up in a list'], ['Enter', 'open'], ...go, ['?', 'this list'], ['Esc', 'close it']]) {
        const dt = document.createElement('dt'), dd = document.createElement('dd'), kbd = document.createElement('kbd')
        kbd.textContent = k; dt.append(kbd); dd.textContent = s; dl.append(dt, dd)
      }
      d.append(dl)
      document.body.append(d)
    }
    d.open ? d.close() : d.showModal()
  }
  addEventListener('keydown', e => {
    if (e.ctrlKey || e.metaKey || e.altKey || busy(e.target)) return
    if (g && Date.now() - g < 1500) {
      g = 0
      const a = document.querySelector(`[data-go="${CSS.escape(e.key)}"]`)
      if (a) { e.preventDefault(); a.click() }
      return
    }
    const find = document.getElementById('find') ?? document.querySelector('input[type=search]')
    if (e.key === '/' && find) { e.preventDefault(); find.focus() }
    else if (e.key === '?') list()
    else if (e.key === 'j') move(1)
    else if (e.key === 'k') move(-1)
    else if (e.key === 'g') g = Date.now()
  })
})()
