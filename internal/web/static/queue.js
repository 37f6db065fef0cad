// Checks one after another: m met, x not met, 1 to 9 an own sentence, Enter settles,
// n later, p back, a ask, b side by side.
'use strict'
;(() => {
  const form = document.getElementById('settle'), note = document.getElementById('f-note')
  const typing = t => t.closest('textarea, input:not([type=radio]):not([type=checkbox]), select, dialog')
  document.querySelectorAll('[data-sentence]').forEach(b => b.addEventListener('click', () => {
    if (!note) return
    note.value = b.textContent
    note.focus()
    note.setSelectionRange(note.value.length, note.value.length)
  }))
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
      to.click()
      if (to.type === 'radio') note?.focus()
      return
    }
    if (e.key === 'Enter' && form && (e.target === document.body || e.target.type === 'radio')) { e.preventDefault(); form.requestSubmit() }
  })
})()
