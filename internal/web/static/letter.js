// A referee's letter: counted while it is written, and kept in this browser,
// with the day, the years and the answers, until the server shows that it has
// them. What is put up and not sent is said before the page is left.
'use strict'
;(() => {
  const done = document.querySelector('[data-done]')
  if (done) localStorage.removeItem(done.dataset.done)
  const form = document.getElementById('letter')
  if (!form) return
  const box = form.querySelector('textarea[name=letter_]'), count = form.querySelector('[data-count]'), key = form.dataset.store, most = +form.dataset.max
  const fields = [...form.elements].filter(f => f.name && !['hidden', 'file', 'submit'].includes(f.type))
  const ticked = f => f.type === 'radio' || f.type === 'checkbox'
  const now = () => JSON.stringify(Object.fromEntries(fields.filter(f => !ticked(f) || f.checked).map(f => [ticked(f) ? f.name + '=' + f.value : f.name, f.value])))
  const words = globalThis.ulvantWords
  const show = () => { const n = words(box.value); count.textContent = `${n} of ${most} words`; count.classList.toggle('over', n > most) }
  let kept = null, going = false
  try { kept = JSON.parse(localStorage.getItem(key)) } catch { /* from before, or broken */ }
  const began = now()
  if ('unkept' in form.dataset) localStorage.setItem(key, now()) // the server drew it again and has not kept it
  else if (kept && JSON.stringify(kept) !== now() && !document.querySelector('.notice')) {
    fields.forEach(f => { if (ticked(f)) f.checked = f.checked || f.name + '=' + f.value in kept; else if (kept[f.name]) f.value = kept[f.name] })
  } else localStorage.removeItem(key)
  show()
  fields.forEach(f => f.addEventListener('input', () => { localStorage.setItem(key, now()); show() }))
  const file = form.querySelector('[type=file]'), says = document.getElementById('file-problem')
  const tooLarge = () => {
    const f = file.files[0], over = f && f.size > +file.dataset.most
    says.textContent = over ? `${f.name} is ${(f.size / 1048576).toFixed(1)} MB; up to ${+file.dataset.most / 1048576} MB are taken. Nothing was sent. Choose a smaller one, or write in the box.` : ''
    return over
  }
  file.addEventListener('change', tooLarge)
  addEventListener('submit', () => { going = true })
  form.addEventListener('submit', e => { if (tooLarge()) { e.preventDefault(); going = false } })
  // a link on this page: said in the page, where it can be sent at one press
  const unsent = () => 'unsent' in form.dataset || now() !== began
  const told = document.createElement('dialog')
  told.className = 'leaving'
  told.innerHTML = '<h2>It is not sent</h2><p></p><div class="pair"><button class="btn" data-send>Send it now</button><button class="btn ghost" data-stay>Stay here</button><button class="plain go" data-leave>Leave, not sent</button></div>'
  told.querySelector('p').textContent = 'unsent' in form.dataset
    ? 'Your letter is put up, but whoever asked for it does not have it. It counts only once you press Send.'
    : 'What you have written is kept in this browser alone. It counts only once you press Send.'
  document.body.append(told)
  let to = ''
  document.addEventListener('click', e => {
    const a = e.target.closest('a[href]')
    if (!a || going || !unsent() || a.target || a.getAttribute('href').startsWith('#') || a.getAttribute('href').includes('/own/') || e.ctrlKey || e.metaKey) return
    e.preventDefault()
    to = a.href
    told.showModal()
  })
  told.addEventListener('click', e => {
    if (e.target.closest('[data-stay]')) told.close()
    if (e.target.closest('[data-leave]')) { going = true; location.href = to }
    if (e.target.closest('[data-send]')) form.querySelector('[formaction$="/send"]').click()
  })
  // closing the tab, going back: only the browser can ask
  addEventListener('beforeunload', e => { if (!going && unsent()) e.preventDefault() })
})()
