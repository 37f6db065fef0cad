// Files for slots: chosen, dropped or pasted, they go up at once and in pieces
// (arrive.js), with how far each is; the page can be left meanwhile. Those that
// are in can be put in order by dragging or by arrow keys. Without scripts the
// button beside the chooser puts one in.
'use strict'
import { begin, headOf, onWay, takeUp, tell } from './arrive.js'
import { ref, token, who } from './draft.js'

const mega = 1048576
const size = n => n < mega ? `${Math.max(1, Math.round(n / 1024))} kB` : `${(n / mega).toFixed(n < 10 * mega ? 1 : 0)} MB`
const make = (tag, props, ...kids) => { const e = Object.assign(document.createElement(tag), props); e.append(...kids); return e }
const boxOf = slot => document.querySelector(`[data-q="${CSS.escape(slot)}"]`)
const rowsIn = box => [...box.querySelectorAll('.file[data-file]')]

const leftWords = s => s < 50 ? `about ${Math.max(5, Math.round(s / 5) * 5)} seconds left` : s < 5400 ? `about ${Math.max(1, Math.round(s / 60))} minutes left` : `about ${(s / 3600).toFixed(1)} hours left`
const words = a => {
  const far = `${size(a.sent)} of ${size(a.total)}`
  switch (a.state) {
    case 'waiting': return `${far}, waits its turn`
    case 'going': return a.broken ? `The line is lost. ${far} are here; it goes on by itself when it is back.` : a.still && a.sent < a.total ? `It stands still at the moment; ${far} are here, and nothing of them is lost.` : a.sent >= a.total ? `${size(a.total)} have come` : `${far} are here${a.speed > 1000 ? ' · ' + leftWords((a.total - a.sent) / a.speed) : ''}`
    case 'paused': return `paused, ${far} are here`
    case 'elsewhere': return 'goes on in another window of yours'
    case 'arrived': return 'has arrived and is being opened'
    case 'faulty': return a.fault
    default: return `${a.fault || 'The line is lost.'} ${far} are here; it goes on by itself when it can.`
  }
}

// A row shows one file on its way.
const rows = new Map() // Arrival → its row
const draw = a => {
  strip()
  const box = boxOf(a.slot)
  if (a.state === 'gone') { rows.get(a)?.remove(); rows.delete(a); if (box) merge(a.slot); return }
  if (!box) return
  let row = rows.get(a) ?? (a.url && box.querySelector(`.file[data-arriving="${CSS.escape(a.url)}"]`))
  if (!row) {
    row = make('div', { className: 'file' })
    const before = box.querySelector('form[data-upload]')
    before ? before.before(row) : box.append(row)
  }
  if (!rows.has(a)) {
    const bar = make('progress', { max: a.total, value: a.sent }), says = make('div', { className: 'sub' })
    bar.setAttribute('aria-label', `How much of ${a.name} has arrived`)
    const hold = make('button', { type: 'button', className: 'plain go' }), drop = make('button', { type: 'button', className: 'plain go', textContent: 'Give up' })
    hold.onclick = () => a.state === 'going' ? a.pause() : a.goOn()
    drop.onclick = () => a.state === 'faulty' ? (row.remove(), rows.delete(a)) : a.giveUp()
    row.replaceChildren(make('div', { className: 'what' }, make('b', { className: 'main', textContent: a.name }), bar, says), make('div', { className: 'pair' }, hold, drop))
    Object.assign(row, { bar, says, hold, drop })
    rows.set(a, row)
  }
  row.bar.value = a.sent
  row.bar.hidden = a.state === 'faulty'
  row.says.textContent = words(a)
  row.says.className = a.state === 'faulty' ? 'problem' : a.state === 'lost' || a.broken || a.still ? 'sub hot' : 'sub'
  if (a.url && !row.known) { row.known = true; if (a.state === 'going') merge(a.slot) } // what stands in the way has changed
  row.says.setAttribute('role', a.state === 'faulty' || a.state === 'lost' ? 'alert' : 'none')
  row.hold.hidden = !['going', 'paused', 'lost'].includes(a.state)
  row.hold.textContent = a.state === 'going' ? 'Pause' : 'Go on'
  row.drop.hidden = ['arrived', 'elsewhere'].includes(a.state)
  row.drop.textContent = a.state === 'faulty' ? 'Clear' : 'Give up'
  if (a.state === 'arrived') merge(a.slot, a)
}

// strip says on every page of the application what is on its way.
const strip = () => {
  const p = document.getElementById('onway')
  if (!p) return
  const list = [...onWay.values()].filter(a => a.state !== 'elsewhere')
  p.hidden = !list.length
  if (!list.length) return
  const sent = list.reduce((n, a) => n + a.sent, 0), total = list.reduce((n, a) => n + a.total, 0)
  p.textContent = `${list.length === 1 ? list[0].name + ' is' : list.length + ' files are'} on the way: ${Math.floor(100 * sent / total)}%`
}

// merge shows what the server has of a slot, and leaves what is typed in its rows.
const merging = new Map()
const merge = (slot, arrived, again = 600) => {
  clearTimeout(merging.get(slot))
  merging.set(slot, setTimeout(async () => {
    const page = await fetch(location.href).then(r => r.ok ? r.text() : '').catch(() => '')
    const fresh = new DOMParser().parseFromString(page, 'text/html'), theirs = fresh.querySelector(`[data-q="${CSS.escape(slot)}"]`), box = boxOf(slot)
    if (!theirs || !box) { if (!page) merge(slot, arrived, 5000); return }
    const list = rowsIn(theirs)
    for (const r of rowsIn(box)) if (!list.some(n => n.dataset.file === r.dataset.file)) r.remove()
    if (arrived) { rows.get(arrived)?.remove(); rows.delete(arrived) }
    let last
    for (const n of list) {
      const mine = rowsIn(box).find(r => r.dataset.file === n.dataset.file)
      if (mine && !('opening' in mine.dataset) && !('arriving' in mine.dataset && !('arriving' in n.dataset))) { last = mine; continue }
      if (n.dataset.arriving && [...rows.keys()].some(a => a.url === n.dataset.arriving)) continue
      const put = document.importNode(n, true)
      if (mine) mine.replaceWith(put)
      else if (last) last.after(put)
      else (box.querySelector('.file') ?? box.querySelector('form[data-upload]')).before(put)
      last = put
    }
    box.classList.toggle('faulty', theirs.classList.contains('faulty'))
    box.querySelector('[data-problems]').innerHTML = theirs.querySelector('[data-problems]').innerHTML
    box.querySelectorAll('.onshelf').forEach(x => { if (![...theirs.querySelectorAll('.onshelf [name=file]')].some(i => i.value === x.querySelector('[name=file]').value)) x.remove() })
    grips(box)
    document.dispatchEvent(new Event('shown'))
    for (const id of ['aside', 'path']) {
      const has = document.getElementById(id), gets = fresh.getElementById(id)
      if (has && gets) has.innerHTML = gets.innerHTML
    }
    if (box.querySelector('[data-opening]')) merge(slot, undefined, Math.min(5000, again * 1.5))
  }, again))
}

const putter = form => {
  const input = form.querySelector('[type=file]'), button = form.querySelector('button'), slot = form.dataset.upload.slice(2), box = boxOf(slot)
  const fault = make('p', { className: 'problem' })
  fault.setAttribute('role', 'alert')
  form.append(fault)
  input.multiple = 'several' in form.dataset
  form.querySelector('[data-drophint]')?.removeAttribute('hidden')
  const put = async files => {
    files = [...files]
    fault.textContent = ''
    if (!files.length) return
    if (!input.multiple && files.length > 1) { fault.textContent = `One file goes here; these are ${files.length}. Nothing was sent: choose one.`; return }
    const large = files.filter(f => +form.dataset.most && f.size > +form.dataset.most)
    if (large.length) { // said before a byte is sent: the server would not take it
      fault.textContent = `${large[0].name} is ${size(large[0].size)}; up to ${size(+form.dataset.most)} are taken here. ` +
        `Nothing of ${large.length > 1 ? `it and of ${large.length - 1} more` : 'it'} was sent. Make it smaller and choose it again.`
      files = files.filter(f => !large.includes(f))
    }
    let last
    for (const file of files) {
      let at
      for (const r of box.querySelectorAll('.file[data-arriving]')) {
        if (+r.dataset.size === file.size && !onWay.has(r.dataset.arriving) && r.dataset.head === await headOf(file)) at = r
      }
      last = await begin(ref, slot, who, file, at?.dataset.arriving, +(at?.dataset.arrived ?? 0), last?.created)
    }
    input.value = ''
  }
  button.hidden = true
  input.addEventListener('change', () => put(input.files))
  form.addEventListener('submit', e => { e.preventDefault(); put(input.files) })
  for (const over of ['dragenter', 'dragover']) {
    box.addEventListener(over, e => { if (e.dataTransfer.types.includes('Files')) { e.preventDefault(); box.classList.add('dropping') } })
  }
  for (const out of ['dragleave', 'drop']) box.addEventListener(out, () => box.classList.remove('dropping'))
  box.addEventListener('drop', e => { if (e.dataTransfer.files.length) { e.preventDefault(); put(e.dataTransfer.files) } })
  return { box, put }
}
const putters = [...document.querySelectorAll('form[data-upload]')].map(putter)

// A picture that is pasted goes to the slot that was touched last, or to the only one.
document.addEventListener('paste', e => {
  const files = e.clipboardData?.files ?? []
  if (!files.length) return
  const to = putters.find(p => p.box.contains(document.activeElement)) ?? (putters.length === 1 ? putters[0] : undefined)
  if (to) { e.preventDefault(); to.put(files) }
})

// Order: what is dragged, or moved by arrow keys, is kept when it is let go.
const keepOrder = async box => {
  if ('ordering' in box.dataset) { box.again = true; return }
  box.dataset.ordering = ''
  const ids = rowsIn(box).filter(r => !r.dataset.arriving).map(r => r.dataset.file)
  const body = new URLSearchParams({ files: ids.join(' ') })
  const r = await fetch(`/applications/${ref}/order/${box.dataset.q}`, { method: 'POST', body, headers: { 'X-Form-Token': token(), Accept: 'application/json' } }).catch(() => null)
  const says = box.querySelector('.orderfault') ?? box.appendChild(make('p', { className: 'problem orderfault' }))
  delete box.dataset.ordering
  steps(box)
  if (box.again) { box.again = false; keepOrder(box); return }
  says.textContent = r?.ok ? '' : (await r?.json().catch(() => ({})))?.fault ?? 'The line is lost; the new order is not kept yet. Move one again when it is back.'
}
let dragged
const grips = box => { sameForAll(box); rowsIn(box).forEach(row => grip(box, row)); steps(box) }

// A step up or down is offered where there is one to go, and a hand that points needs none.
const steps = box => {
  const all = rowsIn(box), fine = matchMedia('(pointer: fine)').matches
  all.forEach((row, i) => row.querySelectorAll('[data-step]').forEach(f => { f.hidden = fine || (f.dataset.step === 'up' ? i === 0 : i === all.length - 1) }))
}

// What is written beside the first file can be put beside all that have nothing there.
const sameForAll = box => {
  const first = rowsIn(box).find(r => r.querySelector('.parts')), all = rowsIn(box)
  if (!first || all.length < 2) return
  first.querySelectorAll('.part').forEach(part => {
    const input = part.querySelector('[data-save]'), column = input?.name.split(':')[2]
    if (!input || part.querySelector('[data-same]')) return
    const b = make('button', { type: 'button', className: 'plain go s', textContent: 'same for all left empty' })
    b.dataset.same = ''
    b.onclick = e => {
      e.preventDefault()
      for (const r of rowsIn(box)) {
        const other = r.querySelector(`[data-save][name$=":${CSS.escape(column)}"]`)
        if (other && !other.value.trim()) { other.value = input.value; other.dispatchEvent(new Event('input', { bubbles: true })) }
      }
    }
    part.append(b)
  })
}
const grip = (box, row) => {
  const handle = row.querySelector('[data-grip]')
  if (!handle || !handle.hidden) return
  handle.hidden = false
  handle.addEventListener('keydown', e => {
    const by = { ArrowUp: -1, ArrowLeft: -1, ArrowDown: 1, ArrowRight: 1 }[e.key]
    if (!by) return
    e.preventDefault()
    const all = rowsIn(box), to = all[all.indexOf(row) + by]
    if (!to) return
    by < 0 ? to.before(row) : to.after(row)
    handle.focus()
    handle.setAttribute('aria-label', `${row.dataset.name}, now ${rowsIn(box).indexOf(row) + 1} of ${all.length}`)
    keepOrder(box)
  })
  row.draggable = true
  row.addEventListener('dragstart', e => { if (e.target.closest?.('input, textarea')) { e.preventDefault(); return } dragged = row; row.classList.add('moving'); e.dataTransfer.effectAllowed = 'move' })
  row.addEventListener('dragover', e => {
    if (!dragged || dragged === row || dragged.parentElement !== row.parentElement) return
    e.preventDefault()
    const r = row.getBoundingClientRect()
    e.clientY < r.top + r.height / 2 ? row.before(dragged) : row.after(dragged)
  })
  row.addEventListener('drop', e => { if (dragged) e.preventDefault() })
  row.addEventListener('dragend', () => { dragged?.classList.remove('moving'); dragged = undefined; keepOrder(box) })
}
putters.forEach(p => grips(p.box))

tell(draw)
takeUp(ref, who, url => +(document.querySelector(`.file[data-arriving="${CSS.escape(url)}"]`)?.dataset.arrived ?? 0))
putters.forEach(p => { if (p.box.querySelector('[data-opening]')) merge(p.box.dataset.q) })
