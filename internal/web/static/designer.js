// The design page: n adds, Alt+arrows move, Ctrl+Z undoes; things are dragged
// in the outline. Fields are kept by htmx as they are left; focus stays.
'use strict'
;(() => {
  const root = () => document.getElementById('designer')
  const act = name => root()?.querySelector(`form[data-act="${name}"]`)
  const typing = t => t.matches?.('input:not([type=checkbox]):not([type=radio]), textarea, select')
  document.addEventListener('keydown', e => {
    if (!root()) return
    if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      const f = act('move' + (e.key === 'ArrowUp' ? 'up' : 'down'))
      if (f) { e.preventDefault(); f.requestSubmit() }
    } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !typing(e.target)) {
      e.preventDefault(); act(e.shiftKey ? 'redo' : 'undo')?.requestSubmit()
    }
  })
  document.addEventListener('keyup', e => { // on the way up, so that the n itself is not typed
    if (e.key !== 'n' || typing(e.target) || e.ctrlKey || e.metaKey || e.altKey) return
    const f = root()?.querySelector('[data-addhere]')
    if (!f) return
    f.closest('details').open = true
    f.elements.label.focus()
  })

  // A tick that is taken off is sent as "no" by the hidden field before it;
  // one that is on must send only "yes".
  document.addEventListener('htmx:configRequest', e => {
    const form = e.detail.elt.closest?.('form')
    if (form?.id !== 'thing') return
    // htmx adds the button that has the focus; only a press of it counts.
    if (e.detail.triggeringEvent?.type !== 'submit') e.detail.formData?.delete('do')
    for (const box of form.querySelectorAll('[data-tick]')) e.detail.formData?.set(box.name, box.checked ? 'yes' : 'no')
  })
  document.addEventListener('submit', e => {
    if (e.target.id !== 'thing') return
    for (const box of e.target.querySelectorAll('[data-tick]')) if (box.checked) box.previousElementSibling?.matches('input[type=hidden]') || box.closest('.m').querySelector(`input[type=hidden][name="${CSS.escape(box.name)}"]`)?.remove()
  })
  let last // what had the focus: htmx finds it again by id, buttons are found here
  const proof = e => ['proof', 'asks'].includes(e.detail.elt?.id) // it comes by itself, after the page
  document.addEventListener('htmx:beforeRequest', e => {
    const r = root(), on = document.activeElement
    if (!r || proof(e)) return
    r.dataset.state = 'saving'
    last = on && r.contains(on) && !on.id ? { name: on.name, value: on.value } : null
  })
  // What was typed since the page was sent stays as it is typed when the page is
  // drawn again: where somebody is still typing it is sent when the field is
  // left, and at once where they have moved on already. Between a swap and its
  // settling htmx does not listen to what was swapped in: what is changed or left
  // then is sent afterwards. The field in hand stays letter by letter, even where
  // what was sent of it was kept otherwise, without a space at its end.
  let sent, typed = [], swapping = false, missed = false
  document.addEventListener('change', e => { if (swapping && e.target.closest?.('#thing')) missed = true }, true)
  const texts = '#thing textarea, #thing input:not([type=checkbox]):not([type=radio]):not([type=hidden])'
  document.addEventListener('htmx:configRequest', e => { if (e.detail.elt.id === 'thing') sent = e.detail.formData })
  document.addEventListener('htmx:beforeSwap', e => {
    if (proof(e)) return
    swapping = true
    typed = [...document.querySelectorAll(texts)]
      .filter(i => i.name && i.value !== i.defaultValue && (i === document.activeElement || !sent?.getAll(i.name).includes(i.value)))
      .map(i => ({ name: i.name, value: i.value, at: i.selectionEnd, on: i === document.activeElement }))
  })
  document.addEventListener('htmx:afterSwap', e => {
    if (proof(e)) return
    for (const was of typed.splice(0)) {
      const i = [...document.querySelectorAll(texts)].find(i => i.name === was.name)
      if (!i || i.value === was.value) continue
      i.value = was.value
      const send = () => i.dispatchEvent(new Event('change', { bubbles: true }))
      if (!was.on) { missed = true; continue }
      i.focus()
      try { i.setSelectionRange(was.at, was.at) } catch { /* a date has no selection */ }
      i.addEventListener('blur', send, { once: true })
    }
  })
  document.addEventListener('htmx:afterSettle', e => {
    const r = root()
    if (!r || proof(e)) return
    r.dataset.state = 'kept'
    swapping = false
    if (missed) { missed = false; document.getElementById('thing')?.dispatchEvent(new Event('change', { bubbles: true })) }
    if (!last?.name || r.contains(document.activeElement)) return // somebody has gone on by themselves
    const adds = /:(test|group|case)$/.test(last.value)
    const empty = adds && [...r.querySelectorAll('.test select[name$=".of"]')].find(s => !s.value)
    const same = [...r.querySelectorAll(`[name="${CSS.escape(last.name)}"]`)].find(e => e.value === last.value)
    ;(empty ?? same)?.focus()
  })

  let dragged
  document.addEventListener('dragstart', e => { dragged = e.target.closest?.('#outline li[data-path]') })
  const target = e => {
    const li = e.target.closest?.('#outline li[data-path]')
    if (!li || !dragged || li === dragged) return null
    const same = li.dataset.in === dragged.dataset.in, question = /\/questions$/.test(dragged.dataset.in)
    if (same || question && /\/questions$/.test(li.dataset.in)) return { li, to: li.dataset.in, before: li.dataset.key }
    if (question && li.dataset.in === 'sections') return { li, to: li.dataset.path + '/questions', before: '' }
    return null
  }
  document.addEventListener('dragover', e => {
    root()?.querySelectorAll('.drop').forEach(l => l.classList.remove('drop'))
    const t = target(e)
    if (t) { e.preventDefault(); t.li.classList.add('drop') }
  })
  document.addEventListener('drop', e => {
    const t = target(e)
    if (!t) return
    e.preventDefault()
    const f = document.createElement('form')
    f.method = 'post'; f.action = root().dataset.base + '/move'; f.hidden = true
    const fields = { path: dragged.dataset.path, to: t.to, before: t.before, form_token: document.querySelector('meta[name=form-token]').content }
    for (const [k, v] of Object.entries(fields)) { const i = document.createElement('input'); i.name = k; i.value = v; f.append(i) }
    document.body.append(f); f.submit()
  })
})()
