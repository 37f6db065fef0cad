// The workspace: the draft on the page is saved as it is typed (save.js), by
// whoever writes it together (others.js).
'use strict'
import { kept, store } from './store.js'
import { choose, inputs, meters, nonOf, pending, root, state } from './draft.js'
import { flush, lineBack, lostWords, settle, takeUp, typed } from './save.js'
import './again.js'
import './others.js'
import { onWay } from './arrive.js'

document.querySelectorAll('form[action="/sign-out"]').forEach(f => f.addEventListener('submit', async e => {
  e.preventDefault()
  await flush()
  if (pending.size && !confirm('Some of what you typed has not reached the server yet. Sign out and lose it?')) return
  if (onWay.size && !confirm('Files are still on their way. Sign out? They wait where they stopped, and you choose them once more to go on.')) return
  await store.clear()
  await kept.clear()
  f.submit()
}))

const unsent = document.getElementById('unsent')
if (unsent) {
  const who = document.querySelector('.who .name')?.textContent ?? ''
  const ref = location.pathname.split('/')[2]
  store.under(`${who}|${ref}|`).then(list => {
    if (!list.length) return
    unsent.hidden = false
    unsent.parentElement.querySelector('form button')?.setAttribute('disabled', '')
  })
}

if (root) {
  root.dataset.state = 'ready'
  meters()

  root.addEventListener('input', e => {
    const t = e.target
    if (t.dataset.non) typed(t.dataset.non)
    else if ('save' in t.dataset) {
      const nk = nonOf(t.name)
      if (nk?.type === 'checkbox') nk.checked = false
      else if (nk) nk.value = ''
      typed(t.name)
    }
    meters()
  })
  root.addEventListener('change', e => {
    if ((e.target.type === 'radio' || e.target.type === 'checkbox' || e.target.tagName === 'SELECT') && pending.size) flush()
  })

  // A long list of boxes can be searched; what is ticked stays in sight.
  document.querySelectorAll('[data-filter]').forEach(find => {
    find.hidden = false
    find.addEventListener('input', () => {
      const wanted = find.value.trim().toLowerCase()
      find.parentElement.querySelectorAll('label').forEach(l => { l.hidden = !!wanted && !l.querySelector(':checked') && !l.textContent.toLowerCase().includes(wanted) })
    })
  })

  // Keywords: what is typed becomes one of those chosen.
  const addKeyword = adds => {
    const name = adds.dataset.adds, group = root.querySelector(`[data-chosen="${CSS.escape(name)}"]`), text = adds.value.trim().replace(/\s+/g, ' ')
    if (!text) return
    const option = [...document.getElementById(adds.getAttribute('list')).options].find(o => o.value.toLowerCase() === text.toLowerCase() || o.dataset.code === text)
    if (!option && !('proposals' in adds.dataset)) { adds.setCustomValidity('This is not on the list. Choose one of those shown as you type.'); adds.reportValidity(); return }
    const key = option ? option.dataset.code : 'new: ' + text, there = inputs(name).find(i => i.value === key)
    if (there) there.checked = true
    else choose(group, name, key, option?.value)
    adds.value = ''
    const nk = nonOf(name); if (nk?.type === 'checkbox') nk.checked = false
    typed(name); flush()
  }
  root.addEventListener('input', e => e.target.setCustomValidity?.(''))
  root.addEventListener('keydown', e => { if (e.key === 'Enter' && e.target.dataset.adds) { e.preventDefault(); addKeyword(e.target) } })
  root.addEventListener('click', e => {
    const name = e.target.dataset?.adding
    if (!name) return
    e.preventDefault(); addKeyword(root.querySelector(`[data-adds="${CSS.escape(name)}"]`))
  })
  root.addEventListener('change', e => { if (e.target.dataset.adds && [...document.getElementById(e.target.getAttribute('list')).options].some(o => o.value === e.target.value)) addKeyword(e.target) })

  // An address that is the same as one above, on this page.
  root.querySelectorAll('[data-copyfrom]').forEach(b => {
    const from = root.querySelector(`[data-q="${CSS.escape(b.dataset.copyfrom)}"]`), to = b.closest('[data-q]')
    if (!from) return
    b.hidden = false
    b.onclick = () => to.querySelectorAll('[data-save]').forEach(i => {
      const same = from.querySelector(`[name$=":${i.name.split(':')[2]}"]`)
      if (same && i.value !== same.value) { i.value = same.value; typed(i.name) }
    })
  })

  document.addEventListener('submit', async e => {
    const f = e.target
    if (f.action.endsWith('/sign-out') || f.id === 'again-form') return
    if (f.id === 'answers') {
      e.preventDefault()
      const go = e.submitter?.dataset.next
      if (!pending.size && !go) { state(root.dataset.state === 'ready' ? 'kept' : root.dataset.state); return }
      if (await settle() && go) location.href = go
      return
    }
    if (pending.size) { e.preventDefault(); if (await settle()) f.submit() }
  })
  document.addEventListener('click', async e => {
    const a = e.target.closest('a[href^="/applications/"]')
    if (!a || !pending.size || e.ctrlKey || e.metaKey || e.shiftKey) return
    e.preventDefault()
    if (await settle()) { location.href = a.href; return }
    try { // what is left stays in this browser and is sent from the next page, if that can be fetched at all
      await fetch(a.href, { method: 'HEAD', signal: AbortSignal.timeout(6000) })
      location.href = a.href
    } catch { state('lost', 'That page cannot be fetched while the line is lost. What you typed is kept in this browser; you can go on here.', 'lost') }
  })
  document.addEventListener('visibilitychange', () => { if (document.visibilityState === 'hidden') flush(true) })
  addEventListener('online', lineBack)
  addEventListener('offline', () => state('lost', lostWords, 'lost'))

  const left = document.querySelector('[data-left]')
  if (left) {
    const end = Date.parse(left.dataset.left), skew = Date.parse(left.dataset.now) - Date.now()
    const two = n => String(n).padStart(2, '0')
    setInterval(() => {
      const s = Math.max(0, Math.floor((end - Date.now() - skew) / 1000)), d = Math.floor(s / 86400), h = Math.floor(s / 3600) % 24, m = Math.floor(s / 60) % 60
      left.textContent = s === 0 ? 'closed' : d > 1 ? `${d} days ${h} h left` : s > 3600 ? `${d ? '1 day ' : ''}${h} h ${m} min left` : `${m}:${two(s % 60)} left`
      left.classList.toggle('hot', s < 3600)
    }, 1000)
  }

  takeUp()
}
