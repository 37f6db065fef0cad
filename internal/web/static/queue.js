// Checks one after another: m met, x not met, 1 to 9 an own sentence, Enter settles,
// n later, p back, a ask, b side by side.
'use strict'
;(() => {
  const form = document.getElementById('settle'), note = document.getElementById('f-note')
  const typing = t => t.closest('textarea, input:not([type=radio]):not([type=checkbox]), select, dialog')
  const write = () => { // at the end of what stands there
    note?.focus()
    note?.setSelectionRange(note.value.length, note.value.length)
  }
  const take = b => { if (note) note.value = b.textContent.trim() }
  document.querySelectorAll('[data-sentence]').forEach(b => b.addEventListener('click', () => { take(b); write() }))
  let chosen = false // by its key: the note has the focus when the key is let go, so that it is not typed there
  addEventListener('keyup', () => { if (chosen) write(); chosen = false })
  addEventListener('keydown', e => {
    if (e.ctrlKey || e.metaKey) {
      if (e.key === 'Enter' && form && e.target === note) { e.preventDefault(); form.requestSubmit() }
      return
    }
    if (e.altKey || typing(e.target)) {
      // from the note, Enter alone settles; Shift and Enter begin a new line
      if (e.target === note && e.key === 'Enter' && !e.shiftKey) { e.preventDefault(); form.requestSubmit() }
      if (e.target === note && e.key === 'Escape') note.blur()
      return
    }
    const to = document.querySelector(`[data-key="${CSS.escape(e.key)}"]`)
    if (to) {
      e.preventDefault()
      if ('sentence' in to.dataset) take(to)
      else to.click()
      chosen = to.type === 'radio' || 'sentence' in to.dataset
      return
    }
    if (e.key === 'Enter' && form && (e.target === document.body || e.target.type === 'radio')) { e.preventDefault(); form.requestSubmit() }
  })
})()
