// The reader's desk: marks are kept as they are given; number keys mark the
// criterion in hand, m goes to the note.
'use strict'
;(() => {
  const form = document.getElementById('marks')
  if (!form || !form.querySelector('[data-send]')) return
  const version = form.querySelector('[name=version]'), problem = document.getElementById('marks-problem')
  let timer, busy = false, again = false
  // What is marked while there is no line stays on this device until it is kept.
  const here = `marks ${form.dataset.who} ${form.action}`
  const stash = fields => { try { fields ? localStorage.setItem(here, JSON.stringify({ version: version.value, fields })) : localStorage.removeItem(here) } catch { /* a browser that keeps nothing */ } }
  const said = () => [...new FormData(form)].filter(([name]) => name !== 'version' && name !== 'form_token')
  const putBack = fields => {
    for (const [name, value] of fields) {
      const at = form.elements[name]
      if (at) at.value = value
    }
    form.querySelectorAll('[data-says]:checked').forEach(i => { i.closest('fieldset').querySelector('p[data-says]').textContent = `${i.value} — ${i.dataset.says}` })
    keep()
  }
  form.dataset.state = 'live'
  const keep = async () => {
    if (busy) { again = true; return }
    busy = true; form.dataset.state = 'saving'
    try {
      const res = await fetch(form.action, { method: 'POST', headers: { Accept: 'application/json' }, body: new URLSearchParams(new FormData(form)) })
      const body = await res.json()
      if (res.ok) {
        version.value = body.version
        form.querySelector('[data-score]').textContent = body.score
        form.querySelector('[data-so-far]').textContent = body.all ? 'all is marked, kept' : `so far; ${body.left === 1 ? '1 thing is' : body.left + ' things are'} still to be marked; kept`
        problem.textContent = ''
        if (!again && form.dataset.state === 'saving') stash()
        form.dataset.state = 'kept'
      } else { problem.textContent = body.fault; form.dataset.state = 'refused' }
    } catch { problem.textContent = 'The line is lost; the marks stay on this device and are kept when it is back.'; form.dataset.state = 'lost'; setTimeout(keep, 3000) }
    busy = false
    if (again) { again = false; keep() }
  }
  form.addEventListener('input', e => {
    if (e.target.dataset.says) e.target.closest('fieldset').querySelector('p[data-says]').textContent = `${e.target.value} — ${e.target.dataset.says}`
    form.dataset.state = 'dirty'
    stash(said())
    clearTimeout(timer); timer = setTimeout(keep, e.target.matches('textarea') ? 1000 : 50)
  })
  form.addEventListener('submit', () => stash()) // the page goes with it, or comes back with what was typed
  let left
  try { left = JSON.parse(localStorage.getItem(here)) } catch { /* nothing to read */ }
  if (left?.version === version.value) putBack(left.fields)
  else if (left) {
    problem.textContent = 'Marks that you gave on this device while the line was lost are not kept yet, and others were kept since. '
    const b = document.createElement('button')
    b.type = 'button'; b.className = 'btn ghost small'; b.textContent = 'Put them back'
    b.onclick = () => { b.remove(); putBack(left.fields) }
    problem.append(b)
  }
  addEventListener('keydown', e => {
    if (e.ctrlKey || e.metaKey || e.altKey || e.target.closest('textarea, input:not([type=radio]), dialog')) return
    if (e.key === 'm') { e.preventDefault(); document.getElementById('f-note').focus(); return }
    if (!/^[0-9]$/.test(e.key)) return
    const all = [...form.querySelectorAll('fieldset[data-criterion]')]
    const at = document.activeElement.closest?.('fieldset[data-criterion]') ?? all.find(f => !f.querySelector(':checked')) ?? all[0]
    const radio = at.querySelector(`input[value="${e.key}"]`)
    if (!radio) return
    radio.checked = true; radio.dispatchEvent(new Event('input', { bubbles: true }))
    const next = all[all.indexOf(at) + 1]
    if (next) (next.querySelector(':checked') ?? next.querySelector('input')).focus()
  })
})()
