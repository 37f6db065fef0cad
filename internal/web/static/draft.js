// The draft on the page: which answers are typed and wait, and how one is read
// from its inputs and written into them.
'use strict'
export const root = document.getElementById('workspace') // null on the page of sending
const { ref, section, save, who } = root?.dataset ?? {}
export { ref, section, save, who }
export const prefix = `${who}|${ref}|`
export const pending = new Map() // name → edit
export const held = new Set() // names whose conflict waits for a choice
export const life = { closed: root ? 'closed' in root.dataset : true } // nothing can be typed any more
export const fresh = () => crypto.randomUUID().replaceAll('-', '')
export const token = () => document.querySelector('meta[name=form-token]').content
const words = globalThis.ulvantWords
const kept = document.getElementById('kept'), dot = document.querySelector('[data-dot]')

// state says how the draft stands, beside the title.
export const state = (name, text, look) => {
  root.dataset.state = name
  if (text) kept.textContent = text
  dot.className = 'dot' + (look ? ' ' + look : '')
}

// keptAt says that all of it is on the server.
export const keptAt = clock => {
  state('kept')
  kept.replaceChildren('Everything you typed is kept on the server, last at ', Object.assign(document.createElement('span'), { className: 'num', textContent: clock }))
}

// What stands on the page by name, looked up anew when the page changed: a budget
// has thousands of cells.
let index = null, metered = []
const named = '[data-save], [data-versionof], [data-non]'
const changed = records => { if (index && records.some(r => [...r.addedNodes, ...r.removedNodes].some(n => n.nodeType === 1 && (n.matches(named) || n.querySelector(named))))) index = null }
const watch = root && new MutationObserver(changed)
watch?.observe(root, { childList: true, subtree: true })
const found = name => {
  changed(watch.takeRecords())
  if (!index) {
    index = new Map()
    metered = [...root.querySelectorAll('[data-meter]')]
    const at = n => index.get(n) ?? index.set(n, { inputs: [] }).get(n)
    root.querySelectorAll(named).forEach(i => {
      if ('save' in i.dataset) at(i.name).inputs.push(i)
      if (i.dataset.versionof) at(i.dataset.versionof).version ??= i
      if (i.dataset.non) at(i.dataset.non).non ??= i
    })
  }
  return index.get(name)
}
export const inputs = name => found(name)?.inputs ?? []
export const versionOf = name => found(name)?.version ?? null
export const nonOf = name => found(name)?.non ?? null
export const read = name => {
  const nk = nonOf(name), all = inputs(name), one = all[0]
  const non = !nk ? '' : nk.type === 'checkbox' ? (nk.checked ? nk.value : '') : nk.value
  let value = ''
  if (non || !one) value = ''
  else if (one.type === 'radio') value = all.find(i => i.checked)?.value ?? ''
  else if ('several' in one.dataset) value = all.filter(i => i.checked).map(i => i.value).join('\n')
  else if (one.type === 'checkbox') value = one.checked ? one.value : 'no'
  else value = one.value
  return { value, non }
}
export const write = (name, e) => {
  const nk = nonOf(name)
  if (nk?.type === 'checkbox') nk.checked = nk.value === e.non
  else if (nk) nk.value = e.non ?? ''
  const lines = (e.value ?? '').split('\n')
  const chosen = root.querySelector(`[data-chosen="${CSS.escape(name)}"]`)
  if (chosen) lines.filter(l => l && !inputs(name).some(i => i.value === l)).forEach(l => choose(chosen, name, l))
  for (const i of inputs(name)) {
    if (i.type === 'radio') i.checked = i.value === e.value
    else if (i.type === 'checkbox') i.checked = 'several' in i.dataset ? lines.includes(i.value) : i.value === e.value
    else i.value = e.value
  }
}
export const choose = (group, name, key, label) => {
  const l = document.createElement('label'), i = document.createElement('input')
  Object.assign(i, { type: 'checkbox', name, value: key, checked: true })
  i.setAttribute('form', 'answers'); i.dataset.save = ''; i.dataset.several = ''
  l.append(i, ' ' + (label ?? key.replace(/^new: (.*)$/, '$1 (proposed)')))
  group.append(l)
}
export const place = name => { const [question, row = '', column = ''] = name.split(':'); return { question, row, column } }
export const nameOf = r => r.row || r.column ? `${r.question}:${r.row ?? ''}:${r.column ?? ''}` : r.question


export const meters = () => { found(''); metered.forEach(meter) }
const meter = m => {
  const box = m.closest('[data-q]'), field = box.querySelector('textarea, input.in'), most = +m.dataset.words
  if (!most || !field) return
  const n = words(field.value), c = m.querySelector('[data-count]'), bar = m.querySelector('[data-bar]')
  c.textContent = n > most ? `${n} of ${most} words, ${n - most} over` : `${n} of ${most} words`
  c.classList.toggle('over', n > most)
  bar?.setAttribute('width', Math.min(180, 180 * n / most))
  bar?.setAttribute('fill', n > most ? '#B9431C' : '#17453F')
}

// What has not reached the server says so beside its answer, once that is
// more than a moment ago.
export const mark = name => {
  const box = inputs(name)[0]?.closest('[data-q]') ?? nonOf(name)?.closest('[data-q]')
  if (!box) return
  let p = unsent.get(box)
  if (!waits(box.dataset.q)) { p?.remove(); unsent.delete(box); return }
  if (!p) {
    p = Object.assign(document.createElement('p'), { className: 'unsent', textContent: 'Not on the server yet; kept in this browser.' })
    box.append(p)
    unsent.set(box, p)
  }
}
const unsent = new Map() // question on the page → what it says
const waits = key => { for (const n of pending.keys()) if (n === key || n.startsWith(key + ':')) return true; return false }
