// The reader's desk: marks are kept as they are given; number keys mark the
// criterion in hand, m goes to the note.
'use strict'
;(() => {
  const form = document.getElementById('marks')
  if (!form || !form.querySelector('[data-send]')) return
  const version = form.querySelector('[name=version]'), problem = document.getElementById('marks-problem')
  let timer, busy = false, again = false
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
        form.dataset.state = 'kept'
      } else { problem.textContent = body.fault; form.dataset.state = 'refused' }
    } catch { problem.textContent = 'The line is lost; the marks stay on this page and are kept when it is back.'; form.dataset.state = 'lost'; setTimeout(keep, 3000) }
    busy = false
    if (again) { again = false; keep() }
  }
  form.addEventListener('input', e => {
    if (e.target.dataset.says) e.target.closest('fieldset').querySelector('p[data-says]').textContent = `${e.target.value} — ${e.target.dataset.says}`
    form.dataset.state = 'dirty'
    clearTimeout(timer); timer = setTimeout(keep, e.target.matches('textarea') ? 1000 : 50)
  })
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
