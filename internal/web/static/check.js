// "Could this be for me": the verdict is swapped in by htmx; the questions stay
// where they are, and those that are asked now are shown.
'use strict'
document.addEventListener('htmx:afterSwap', () => {
  const shown = document.getElementById('verdict').dataset.shown.split(' ')
  document.querySelectorAll('[data-check] [data-q]').forEach(f => { f.hidden = !shown.includes(f.dataset.q) })
})
