// A referee's letter: counted while it is written, and kept in this browser
// until it has reached the server.
'use strict'
;(() => {
  const form = document.getElementById('letter')
  if (!form) return
  const box = form.querySelector('textarea'), count = form.querySelector('[data-count]'), key = form.dataset.store, most = +form.dataset.max
  const words = s => s.split(/\s+/u).filter(w => /[\p{L}\p{N}]/u.test(w)).length
  const show = () => { const n = words(box.value); count.textContent = `${n} of ${most} words`; count.classList.toggle('over', n > most) }
  const kept = localStorage.getItem(key)
  if (kept && kept !== box.value && !document.querySelector('.notice')) { box.value = kept }
  show()
  box.addEventListener('input', () => { localStorage.setItem(key, box.value); show() })
  form.addEventListener('submit', () => { if (navigator.onLine) localStorage.removeItem(key) })
})()
