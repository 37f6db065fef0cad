// The grid of a budget: arrows, blocks pasted from a spreadsheet, filling down,
// taking back, and totals as they form.
'use strict'
import { line, money, plain, sums } from './costs.js'
import { inputs, pending, root, versionOf } from './draft.js'
import { store } from './store.js'

const grids = new Map() // key of the question → its grid

class Grid {
  constructor (box) {
    this.box = box; this.key = box.dataset.costs; this.rules = JSON.parse(box.dataset.rules)
    this.undo = []; this.before = new Map()
    this.headings = [...box.querySelectorAll('tbody[data-band]')].map(b => b.dataset.band)
    this.spots = new Map()
    this.lines = new Map()
    this.open = !box.closest('[data-closed]') && !!box.querySelector('[data-addline]')
    box.classList.add('live')
    box.querySelectorAll('[data-gridkeys], [data-clear]').forEach(e => { e.hidden = false })
    this.says = box.querySelector('[data-gridsays]')
    box.closest('[data-q]').addEventListener('costs', e => this.told(e.detail))
    this.index()
    if (!this.open) return
    box.addEventListener('focusin', e => this.came(e.target))
    box.addEventListener('input', e => this.typed(e.target))
    box.addEventListener('change', e => this.left(e.target))
    box.addEventListener('keydown', e => this.keyed(e))
    box.addEventListener('paste', e => this.pasted(e))
    box.addEventListener('click', e => this.clicked(e))
  }

  rows () { return [...this.box.querySelectorAll('tr[data-row]')] }
  name (row, col) { return `${this.key}:${row}:${col}` }
  cell (tr, col) { return tr.querySelector(`td[data-col="${CSS.escape(col)}"] .in[data-save]`) }
  where (el) { return { tr: el.closest('tr[data-row]'), td: el.closest('td[data-col]') } }
  columns () { return this.cols ??= [...this.rows()[0].querySelectorAll('td[data-col]')].map(td => td.dataset.col) }

  // index keeps what is read and written at every key, so that one key touches one line.
  index () {
    this.spots.clear()
    document.querySelectorAll('[data-sum]').forEach(s => {
      if (!this.box.contains(s) && !s.closest('[data-comes]')) return
      this.spots.set(s.dataset.sum, [...this.spots.get(s.dataset.sum) ?? [], s])
    })
    this.lines.clear()
    this.rows().forEach(tr => this.read(tr))
  }
  read (tr) {
    const at = new Map()
    tr.querySelectorAll('.in[data-save]').forEach(i => at.set(i.closest('td').dataset.col, i.value))
    const l = line(k => at.get(k) ?? '', this.rules)
    if (l) this.lines.set(tr.dataset.row, l); else this.lines.delete(tr.dataset.row)
    tr.classList.toggle('blankline', !l)
    return l
  }
  total () {
    const rows = [...this.lines].sort((a, b) => a[0] < b[0] ? -1 : 1)
    const { out, strip, adds } = sums(rows, this.headings, this.rules)
    this.show(out)
    for (const [k, x, w] of strip) {
      const r = this.box.querySelector(`[data-pays="${k}"]`)
      if (r) { r.setAttribute('x', x); r.setAttribute('width', w) }
    }
    const both = this.box.querySelector('[data-both]'); if (both) both.hidden = !adds
  }
  show (out) {
    for (const [name, list] of this.spots) {
      const text = out[name] ?? ''
      for (const s of list) if (s.textContent !== text) s.textContent = text
    }
  }

  typed (el) {
    const { tr } = this.where(el)
    if (!tr || !('save' in el.dataset)) return
    const heading = this.cell(tr, 'heading')
    if (heading && el !== heading && 'preset' in heading.dataset) { delete heading.dataset.preset; this.send(heading.name) }
    if (this.busy) { this.touched.add(tr); return }
    this.read(tr); this.total()
    if (!tr.classList.contains('blankline')) this.spare(tr.parentElement)
    const q = tr.querySelector('[data-quotes]')
    if (q) q.textContent = tr.querySelectorAll('.quotes :checked').length || '–'
  }
  // many does something to many cells, and adds up once.
  many (act) {
    this.busy = true; this.touched = new Set()
    try { act() } finally {
      this.busy = false
      this.touched.forEach(tr => this.read(tr))
      new Set([...this.touched].map(tr => tr.parentElement)).forEach(b => this.spare(b))
      this.total()
    }
  }
  send (name) { inputs(name)[0]?.dispatchEvent(new Event('input', { bubbles: true })) }
  came (el) {
    if (el.classList?.contains('in')) this.before.set(el, el.value)
    const { tr } = this.where(el)
    if (tr && !tr.classList.contains('open')) { this.rows().forEach(r => r.classList.toggle('open', r === tr)) }
  }
  left (el) {
    if (!el.classList?.contains('in') || !this.before.has(el)) return
    const was = this.before.get(el)
    if (was !== el.value) this.undo.push([[el.name, was]])
    if (was !== el.value && el.closest('td')?.dataset.col !== 'quantity' && el.classList.contains('num')) { // a sum stands as it is read
      const n = money(el.value, this.rules), text = n === null ? '' : plain(n, this.rules.digits)
      if (text && text !== el.value) { el.value = text; this.send(el.name) }
    }
    this.before.set(el, el.value)
    if (el.closest('td')?.dataset.col === 'heading') this.move(el)
  }
  // move puts a line under another heading.
  move (select) {
    const { tr } = this.where(select), to = this.box.querySelector(`tbody[data-band="${CSS.escape(select.value)}"]`)
    if (!to || to === tr.parentElement) return
    const faults = this.box.querySelector(`[data-faults="${tr.dataset.row}"]`)
    const spare = [...to.querySelectorAll('tr.blankline[data-row]')].at(-1)
    spare ? spare.before(tr) : to.append(tr)
    if (faults) tr.after(faults)
    select.focus()
  }

  // set writes one cell as if it had been typed.
  set (tr, col, value) {
    const i = this.cell(tr, col)
    if (!i || i.readOnly || i.disabled) return null
    if (i.tagName === 'SELECT') {
      const want = value.trim().toLowerCase(), o = [...i.options].find(o => o.value.toLowerCase() === want || o.textContent.trim().toLowerCase() === want)
      if (!o) return want ? false : null
      value = o.value
    } else if (i.classList.contains('num') && col !== 'quantity') { const n = money(value, this.rules); if (n !== null) value = plain(n, this.rules.digits) }
    if (i.value === value) return null
    const was = i.value
    i.value = value
    this.before.set(i, value)
    i.dispatchEvent(new Event('input', { bubbles: true }))
    if (col === 'heading') this.move(i)
    return [i.name, was]
  }

  keyed (e) {
    const el = e.target, { tr, td } = this.where(el)
    if (!tr || !td) return
    const mod = e.ctrlKey || e.metaKey
    if (mod && e.key.toLowerCase() === 'z' && !e.shiftKey) {
      if (el.classList.contains('in') && this.before.has(el) && this.before.get(el) !== el.value) return // what is being typed here
      e.preventDefault(); this.takeBack(); return
    }
    if (mod && e.key.toLowerCase() === 'd') {
      e.preventDefault()
      const rows = this.rows(), above = rows[rows.indexOf(tr) - 1], from = above && this.cell(above, td.dataset.col)
      if (!from) return
      const done = this.set(tr, td.dataset.col, from.value)
      if (done) this.undo.push([done])
      this.go(tr, td, 1, 0)
      return
    }
    if (mod || e.altKey) return
    const text = el.tagName === 'INPUT' && el.type !== 'checkbox', at = text ? el.selectionStart : 0, end = text ? el.selectionEnd : 0
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], Enter: [e.shiftKey ? -1 : 1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key]
    if (!step || el.tagName === 'SELECT' && e.key !== 'ArrowLeft' && e.key !== 'ArrowRight' && e.key !== 'Enter' || el.closest('.quotes')) return
    if (text && e.key === 'ArrowLeft' && (at !== end || at > 0)) return
    if (text && e.key === 'ArrowRight' && (at !== end || at < el.value.length)) return
    e.preventDefault()
    this.go(tr, td, ...step)
  }
  go (tr, td, down, right) {
    const rows = this.rows()
    let to = rows[rows.indexOf(tr) + down] ?? tr
    if (to === tr && down > 0) to = this.spare(tr.parentElement) ?? tr
    const cols = this.columns()
    for (let n = cols.indexOf(td.dataset.col) + right; n >= 0 && n < cols.length; n += right || 1) {
      const i = to.querySelector(`td[data-col="${CSS.escape(cols[n])}"]`)?.querySelector('.in, summary')
      if (i) { i.focus(); i.select?.(); return }
    }
  }
  takeBack () {
    const last = this.undo.pop()
    if (!last) { this.tell('There is nothing to take back.'); return }
    this.many(() => [...last].reverse().forEach(([name, was]) => {
      const i = inputs(name)[0]
      if (!i) return
      i.value = was; this.before.set(i, was)
      i.dispatchEvent(new Event('input', { bubbles: true }))
      if (i.closest('td').dataset.col === 'heading') this.move(i)
    }))
    inputs(last[0][0])[0]?.focus()
    this.tell(last.length > 1 ? `${last.length} cells are as they were before.` : '')
  }
  tell (text) { if (this.says) this.says.textContent = text }

  // pasted lays a block over the grid from the cell where it is pasted.
  pasted (e) {
    const { tr, td } = this.where(e.target), text = e.clipboardData?.getData('text/plain') ?? ''
    if (!tr || !td || !/[\t\n]/.test(text.replace(/\r?\n$/, ''))) return
    e.preventDefault()
    const block = table(text), cols = this.columns(), first = cols.indexOf(td.dataset.col)
    const wide = Math.max(...block.map(r => r.length)), over = Math.max(0, first + wide - cols.length)
    const batch = [], refused = []
    const lines = [tr]
    while (lines.length < block.length) { // all lines first: the page is looked through once
      const next = this.below(lines.at(-1))
      if (!next) break
      lines.push(next)
    }
    const long = block.length - lines.length
    this.many(() => lines.forEach((at, n) => block[n].slice(0, cols.length - first).forEach((value, k) => {
      const done = this.set(at, cols[first + k], value.trim())
      if (done === false) refused.push(value.trim())
      else if (done) batch.push(done)
    })))
    if (batch.length) this.undo.push(batch)
    const says = [`${batch.length} cells of ${block.length - long} lines are pasted; Ctrl Z takes them back.`]
    if (over) says.push(`The block was wider than the grid: its last ${over === 1 ? 'column was' : over + ' columns were'} left out.`)
    if (long) says.push(`A budget takes ${this.rules.rows - 1} lines: the last ${long === 1 ? 'line was' : long + ' lines were'} left out.`)
    if (refused.length) says.push(`Not offered here: ${[...new Set(refused)].slice(0, 4).join(', ')}.`)
    this.tell(says.join(' '))
  }
  below (tr) {
    const list = [...tr.parentElement.querySelectorAll('tr[data-row]')], next = list[list.indexOf(tr) + 1]
    return next ?? this.add(tr.parentElement)
  }

  // spare keeps an empty line at the end of a heading.
  spare (band) {
    const last = [...band.querySelectorAll('tr[data-row]')].at(-1)
    return last?.classList.contains('blankline') ? last : this.add(band)
  }
  next () { return 1 + Math.max(0, ...this.rows().map(r => +r.dataset.row.slice(1))) }
  add (band, key) {
    const n = key ? +key.slice(1) : this.next()
    if (n >= this.rules.rows) { this.tell(`A budget takes ${this.rules.rows - 1} lines.`); return null }
    const from = this.rows()[0], tr = from.cloneNode(true), row = 'r' + String(n).padStart(4, '0')
    const old = from.dataset.row
    tr.dataset.row = row; tr.className = 'blankline'
    tr.querySelectorAll('[name]').forEach(i => {
      i.name = i.name.replace(`:${old}:`, `:${row}:`)
      i.removeAttribute('id')
      if (i.dataset.versionof) { i.dataset.versionof = i.dataset.versionof.replace(`:${old}:`, `:${row}:`); i.value = 0 } else if (i.type === 'checkbox') i.checked = false; else i.value = ''
      i.classList.remove('bad')
    })
    tr.querySelectorAll('[data-computed]').forEach(s => { s.dataset.sum = s.dataset.sum.replace(old, row); s.textContent = ''; this.spots.set(s.dataset.sum, [s]) })
    tr.querySelectorAll('details').forEach(d => { d.open = false }); const q = tr.querySelector('[data-quotes]'); if (q) q.textContent = '–'
    const heading = this.cell(tr, 'heading')
    if (heading && band.dataset.band) { heading.value = band.dataset.band; heading.dataset.preset = '' }
    band.append(tr)
    return tr
  }
  clicked (e) {
    const el = e.target
    if ('addline' in el.dataset) {
      const here = this.box.querySelector('tr.open')?.parentElement ?? [...this.box.querySelectorAll('tbody')].at(-1)
      this.spare(here)?.querySelector('.in')?.focus()
    } else if ('clear' in el.dataset) {
      const { tr } = this.where(el), batch = []
      tr.querySelectorAll('.in[data-save]').forEach(i => { const col = i.closest('td').dataset.col; if (i.value && col !== 'heading') batch.push([i.name, i.value]) })
      batch.forEach(([name]) => { const i = inputs(name)[0]; i.value = ''; this.before.set(i, ''); i.dispatchEvent(new Event('input', { bubbles: true })) })
      if (batch.length) { this.undo.push(batch); this.tell('The line is empty; Ctrl Z brings it back.'); tr.querySelector('.in').focus() }
    } else if (el.closest('td.c-name, td.c-sum') && !el.closest('.in')) this.where(el).tr?.querySelector('.in')?.focus()
  }

  // told is what the server says of the budget: its figures, and what is wrong with which line.
  told ({ sums, faults, over, bad }) {
    this.box.querySelectorAll('.in.bad').forEach(i => i.classList.remove('bad'))
    ;(bad ?? []).forEach(name => inputs(name).forEach(i => i.classList.add('bad')))
    if (![...pending.keys()].some(n => n.startsWith(this.key + ':'))) this.show(sums)
    const there = new Map([...this.box.querySelectorAll('.linefault')].map(f => [f.dataset.faults, f]))
    for (const tr of this.rows()) {
      const list = faults?.[tr.dataset.row] ?? [], says = JSON.stringify(list), old = there.get(tr.dataset.row)
      if (old?.dataset.says === says && old.previousElementSibling === tr) continue
      old?.remove()
      tr.classList.toggle('faulty', !!list.length)
      if (!list.length) continue
      const f = document.createElement('tr'), td = document.createElement('td')
      f.className = 'linefault'; f.dataset.faults = tr.dataset.row; f.dataset.says = says; td.colSpan = tr.children.length
      for (const x of list) {
        const p = document.createElement('p'), s = document.createElement('span')
        p.className = x.Remedy ? 'problem' : 'soft s'; p.append(/[.?]$/.test(x.What) ? x.What : x.What + '.'); s.textContent = x.Remedy; p.append(' ', s); td.append(p)
      }
      f.append(td); tr.after(f)
    }
    this.box.querySelectorAll('tbody[data-band]').forEach(b => b.querySelector('.band')?.classList.toggle('over', (over ?? []).includes(b.dataset.band)))
  }

  // shift takes a line that two began at once to a key of its own: both stay.
  shift (row) {
    const tr = this.box.querySelector(`tr[data-row="${CSS.escape(row)}"]`)
    if (!tr || [...tr.querySelectorAll('[data-versionof]')].some(v => +v.value > 0 && !v.dataset.versionof.endsWith(':heading'))) return false
    if (!this.read(tr)) return true // moved already, by another of its cells
    const to = this.add(tr.parentElement)
    if (!to) return false
    tr.querySelectorAll('.in[data-save]').forEach(i => {
      const col = i.closest('td').dataset.col, mine = i.value
      pending.delete(i.name); store.del(`${root.dataset.who}|${root.dataset.ref}|${i.name}`)
      i.value = col === 'heading' ? i.value : ''
      const j = this.cell(to, col)
      if (j && mine) { j.value = mine; j.dispatchEvent(new Event('input', { bubbles: true })) }
    })
    this.read(tr)
    this.tell('Somebody else began a line at the same moment; yours stands below theirs.')
    return true
  }
  // reach makes the line in which somebody else wrote.
  reach (row, heading) {
    if (this.box.querySelector(`tr[data-row="${CSS.escape(row)}"]`)) return
    this.add(this.box.querySelector(`tbody[data-band="${CSS.escape(heading ?? '')}"]`) ?? this.box.querySelector('tbody'), row)
  }
}

// table reads what a spreadsheet puts on the clipboard: cells parted by tabs,
// lines by line ends, cells with either in quotes.
export const table = text => {
  const rows = [[]]
  let cell = '', quoted = false
  text = text.replace(/\r\n?/g, '\n').replace(/\n$/, '')
  for (let i = 0; i < text.length; i++) {
    const c = text[i]
    if (quoted) { if (c === '"' && text[i + 1] === '"') { cell += '"'; i++ } else if (c === '"') quoted = false; else cell += c === '\n' ? ' ' : c } else if (c === '"' && !cell) quoted = true
    else if (c === '\t') { rows.at(-1).push(cell); cell = '' } else if (c === '\n') { rows.at(-1).push(cell); cell = ''; rows.push([]) } else cell += c
  }
  rows.at(-1).push(cell)
  return rows
}

// moved reports a conflict over a new line, solved by giving mine another place.
export const moved = name => {
  const [key, row] = name.split(':'), g = grids.get(key)
  return !!g && !!row && +(versionOf(name)?.value ?? 0) === 0 && g.shift(row)
}
// reached makes room for answers of others that stand in lines not on the page.
export const reached = answers => {
  for (const [name, a] of Object.entries(answers)) {
    const [key, row] = name.split(':'), g = grids.get(key)
    if (g && row && a.version && !versionOf(name)) g.reach(row, answers[`${key}:${row}:heading`]?.value)
  }
}
// redrawn adds up again what was written from elsewhere.
export const redrawn = () => grids.forEach(g => { g.index(); g.total() })

root?.querySelectorAll('[data-costs]').forEach(box => grids.set(box.dataset.costs, new Grid(box)))
