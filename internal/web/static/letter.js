// A referee's letter: counted while it is written, and kept in this browser,
// with the day and the years, until the server shows that it has them.
'use strict'
;(() => {
  const done = document.querySelector('[data-done]')
  if (done) localStorage.removeItem(done.dataset.done)
  const form = document.getElementById('letter')
  if (!form) return
  const box = form.querySelector('textarea'), count = form.querySelector('[data-count]'), key = form.dataset.store, most = +form.dataset.max
  const fields = [...form.querySelectorAll('textarea, input[name=dated], input[name=from], input[name=to]')]
  const now = () => JSON.stringify(Object.fromEntries(fields.map(f => [f.name, f.value])))
  const words = globalThis.ulvantWords
  const show = () => { const n = words(box.value); count.textContent = `${n} of ${most} words`; count.classList.toggle('over', n > most) }
  let kept = null
  try { kept = JSON.parse(localStorage.getItem(key)) } catch { /* from before, or broken */ }
  if ('unkept' in form.dataset) localStorage.setItem(key, now()) // the server drew it again and has not kept it
  else if (kept && JSON.stringify(kept) !== now() && !document.querySelector('.notice')) fields.forEach(f => { if (kept[f.name]) f.value = kept[f.name] })
  else localStorage.removeItem(key)
  show()
  fields.forEach(f => f.addEventListener('input', () => { localStorage.setItem(key, now()); show() }))
  const file = form.querySelector('[type=file]'), says = document.getElementById('file-problem')
  const tooLarge = () => {
    const f = file.files[0], over = f && f.size > +file.dataset.most
    says.textContent = over ? `${f.name} is ${(f.size / 1048576).toFixed(1)} MB; up to ${+file.dataset.most / 1048576} MB are taken. Nothing was sent. Choose a smaller one, or write in the box.` : ''
    return over
  }
  file.addEventListener('change', tooLarge)
  form.addEventListener('submit', e => { if (tooLarge()) e.preventDefault() })
})()
