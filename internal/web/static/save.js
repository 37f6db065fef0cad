// The save loop: what is typed goes to the server a second after the last key,
// one save in flight at a time. A lost line, a session that ran out, a closed
// round or a body too large never lose text: it stays in this browser and says so.
'use strict'
import { store } from './store.js'
import { conflict } from './conflict.js'
import { moved, reached, redrawn } from './grid.js'
import { fresh, held, inputs, keptAt, life, mark, meters, nameOf, pending, place, prefix, read, root, save, section, state, token, versionOf, write } from './draft.js'

const again = document.getElementById('again') // where the password is asked anew
const troubled = () => ['slow', 'lost'].includes(root.dataset.state)
export const lostWords = 'The line is lost. Go on writing: everything is kept in this browser and sent when the line is back.'

const unanswered = new Map() // name → ids of edits that were sent and not answered; the server may have them
let last = 0, first = 0, inFlight = false, retry = 0, halted = false
export const typed = name => {
  if (life.closed) return
  const v = versionOf(name)
  const e = { ...read(name), version: +(v?.value ?? 0), edit: fresh(), after: unanswered.get(name) }
  if (e.non) inputs(name).forEach(i => { if (i.type === 'radio' || i.type === 'checkbox') i.checked = false })
  pending.set(name, e)
  store.put(prefix + name, e)
  halted = false
  mark(name)
  first ||= Date.now()
  clearTimeout(last)
  last = setTimeout(() => flush(), Math.min(1000, Math.max(0, first + 5000 - Date.now())))
  if (!troubled()) state('dirty', 'Not on the server yet; kept in this browser.', 'wait')
}

export const flush = async (leaving = false) => {
  // a page that is left sends what is pending even while a save is in flight:
  // the server takes the same edit twice as one
  if (inFlight && !leaving || halted || life.closed) return
  const batch = [...pending].filter(([n]) => !held.has(n)).slice(0, 150)
  if (!batch.length) return
  inFlight = true; first = 0
  for (const [n, e] of batch) {
    const ids = unanswered.get(n) ?? e.after ?? []
    if (!ids.includes(e.edit)) unanswered.set(n, [...ids, e.edit].slice(-50))
    store.put(prefix + n, { ...e, after: unanswered.get(n) })
  }
  const text = JSON.stringify({ section, edits: batch.map(([n, e]) => ({ ...place(n), version: e.version, edit: e.edit, after: unanswered.get(n), value: e.value, non: e.non })) })
  if (!troubled()) state('saving', 'Saving…', 'wait')
  const slow = setTimeout(() => state('slow', 'The line is slow or lost. Go on writing: everything is kept in this browser.', 'lost'), 4000)
  let res, body
  try {
    res = await fetch(save, {
      method: 'POST', keepalive: leaving, headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-Form-Token': token() },
      body: text,
      signal: leaving ? undefined : AbortSignal.timeout(8000 + text.length / 4), // milliseconds; 4 kB a second is slow enough
    })
    body = await res.json()
  } catch { res = null }
  inFlight = false
  clearTimeout(slow)
  if (!res || res.status >= 500 || res.status === 429) {
    retry = Math.min(retry ? retry * 2 : 1000, 5000)
    state('lost', lostWords, 'lost')
    setTimeout(flush, retry)
    return
  }
  retry = 0
  if (res.status === 401) { halted = true; state('signed-out', 'Your session has run out. What you typed is kept in this browser.', 'lost'); again.showModal(); return }
  if (!res.ok) { halted = true; state('refused', (body.fault ?? 'It could not be kept.') + ' What you typed is still in this browser.', 'lost'); return }
  applied(body, new Map(batch))
  if (pending.size > held.size) flush()
}

const applied = (body, sent) => {
  const shifted = new Set(body.results.filter(r => r.conflict && moved(nameOf(r))).map(nameOf))
  for (const r of body.results) {
    const name = nameOf(r), mine = sent.get(name), now = pending.get(name)
    unanswered.delete(name)
    if (r.fault) { note(name, r.fault); pending.delete(name); mark(name); continue }
    if (shifted.has(name)) { // mine has another place now; theirs stands here
      write(name, { value: r.theirs })
      const v = versionOf(name); if (v) v.value = r.version
      continue
    }
    if (r.conflict) { held.add(name); conflict(r, now ?? mine, flush); continue }
    const v = versionOf(name); if (v) v.value = r.version
    if (now && now.edit === mine.edit) { pending.delete(name); store.del(prefix + name); mark(name) } else if (now) { now.version = r.version; delete now.after; store.put(prefix + name, now) }
  }
  for (const q of body.questions) draw(q)
  const swap = (id, html) => {
    const el = document.getElementById(id), open = [...el.querySelectorAll('details')].map(d => d.open)
    el.innerHTML = html
    el.querySelectorAll('details').forEach((d, i) => { d.open = !!open[i] })
  }
  swap('path', body.path); swap('aside', body.aside)
  if (held.size) state('conflict', 'One answer was changed elsewhere too; choose which to keep.', 'lost')
  else if (pending.size) state('dirty', 'Not all on the server yet; kept in this browser.', 'wait')
  else keptAt(body.clock)
}
const note = (name, text) => {
  const box = inputs(name)[0]?.closest('[data-q]')?.querySelector('[data-problems]')
  if (box) { const p = document.createElement('p'); p.className = 'problem'; p.textContent = text; box.append(p) }
}
const draw = q => {
  const box = root.querySelector(`[data-q="${CSS.escape(q.key)}"]`)
  if (!box) return
  box.hidden = !q.shown
  const l = box.querySelector('[data-limit]'); if (l) l.textContent = q.limit
  const m = box.querySelector('[data-meter]'); if (m) m.dataset.words = q.words
  const note = box.querySelector('[data-note]'); if (note) note.textContent = q.note
  const charges = box.querySelector('[data-charges]'); if (charges && q.charges) charges.innerHTML = q.charges
  const may = box.querySelector('.may'); if (may) may.hidden = !q.may
  const p = box.querySelector('[data-problems]'), focus = box.contains(document.activeElement)
  p.replaceChildren(...(q.problems ?? []).map(x => {
    const el = document.createElement('p'), s = document.createElement('span')
    el.className = 'problem'; el.append(x.What); if (x.Remedy) { s.textContent = x.Remedy; el.append('. ', s) }
    return el
  }))
  if (!focus) p.setAttribute('role', 'status')
  box.querySelectorAll(':scope > .in, :scope > .inrow > .in').forEach(i => i.classList.toggle('bad', !!q.problems?.length))
  box.querySelectorAll('[data-foot]').forEach((td, n) => { if (q.foot && (n || q.foot[n])) td.textContent = q.foot[n] })
  for (const r of q.rows ?? []) {
    const tr = box.querySelector(`[data-row="${r.key}"]`); if (!tr) continue
    tr.classList.toggle('faulty', r.faulty)
    const c = tr.querySelector('[data-computed]'); if (c) c.textContent = r.computed ?? ''
  }
  meters()
  if (q.costs) box.dispatchEvent(new CustomEvent('costs', { detail: q.costs }))
}

// settle waits a few seconds for all to be kept; true when it is.
export const settle = async () => {
  const end = Date.now() + 6000
  while (pending.size > held.size && !halted && Date.now() < end) {
    flush()
    await new Promise(r => setTimeout(r, 100))
    if (root.dataset.state === 'lost' && !inFlight) break
  }
  return pending.size === 0
}

// lineBack tries again at once; goOn does, when the session is back.
export const lineBack = () => { retry = 0; flush() }
export const goOn = () => { halted = false; flush() }

// takeUp sends what an earlier page could not.
export const takeUp = async () => {
  const waiting = await store.under(prefix)
  reached(Object.fromEntries(waiting.map(([k, e]) => [k.slice(prefix.length), { ...e, version: 1 }])))
  for (const [k, e] of waiting) {
    const name = k.slice(prefix.length)
    if (pending.has(name)) continue
    pending.set(name, e); unanswered.set(name, e.after ?? []); write(name, e); mark(name)
  }
  if (pending.size) { meters(); redrawn(); state('dirty', 'Sending what was kept in this browser…', 'wait'); flush() }
}
