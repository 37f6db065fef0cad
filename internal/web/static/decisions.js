// Decisions: a sum is asked only for an award; the figures follow each choice, as
// the server works them out; recording asks once more; long work shows how far
// it has come.
'use strict'
;(() => {
  const form = document.getElementById('record')
  if (!form) return
  const boxes = [...document.querySelectorAll('.outcome')]
  const show = b => b.querySelectorAll('input, .gift').forEach(x => { x.hidden = b.querySelector('select').value !== 'awarded' })
  const field = name => form.elements[name]
  let says = '', revise = 0, timer, last = 0
  const choose = async () => {
    const mine = ++last, body = new URLSearchParams(new FormData(form))
    body.delete('note'); body.delete('reason')
    try {
      const res = await fetch(form.dataset.choose, { method: 'POST', headers: { Accept: 'application/json' }, body })
      const got = await res.json()
      if (mine !== last) return
      if (!res.ok) { document.getElementById('figures').dataset.state = 'wrong'; return }
      document.getElementById('figures').innerHTML = got.figures
      document.getElementById('figures').dataset.state = 'kept'
      document.querySelectorAll('[data-entry]').forEach(tr => {
        const sum = got.running[tr.dataset.entry] ?? ''
        tr.querySelector('[data-running]').textContent = sum
        tr.classList.toggle('below', !sum)
      })
      document.querySelectorAll('[data-ends]').forEach(tr => { tr.hidden = tr.dataset.ends !== got.ends })
      field('seen').value = got.seen
      says = got.says; revise = got.revise
    } catch { document.getElementById('figures').dataset.state = 'lost' }
  }
  const soon = () => { clearTimeout(timer); document.getElementById('figures').dataset.state = 'typing'; timer = setTimeout(choose, 150) }
  boxes.forEach(b => {
    show(b)
    b.querySelector('select').addEventListener('change', () => { show(b); soon() })
    b.querySelectorAll('input').forEach(x => x.addEventListener('input', soon))
  })
  form.addEventListener('submit', e => {
    if (e.submitter?.formAction.endsWith('/choose')) return
    const n = {}
    boxes.forEach(b => { const v = b.querySelector('select').value; if (v) n[v] = (n[v] ?? 0) + 1 })
    const what = says || Object.entries(n).map(([k, v]) => `${v} ${k}`).join(', ')
    if (!confirm(`Record ${what}? Letters are made at once and wait before they go out.`)) e.preventDefault()
  })
})()
