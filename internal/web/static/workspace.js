// The workspace: what is typed is kept in this browser at once (IndexedDB, by
// account and application), and on the server a second after the last key. One
// save is in flight at a time. A lost line, a session that ran out, a closed
// round or a body too large never lose text: it stays here and is marked so.
'use strict'
;(() => {
  const words = globalThis.ulvantWords

  const store = (() => {
    let db
    const open = () => (db ??= new Promise((done, fail) => {
      const r = indexedDB.open('ulvant', 1)
      r.onupgradeneeded = () => r.result.createObjectStore('edits')
      r.onsuccess = () => done(r.result)
      r.onerror = () => fail(r.error)
    }))
    const run = async (mode, f) => {
      try {
        const tx = (await open()).transaction('edits', mode)
        const out = f(tx.objectStore('edits'))
        return await new Promise((done, fail) => { tx.oncomplete = () => done(out.result); tx.onerror = () => fail(tx.error) })
      } catch { return undefined } // a browser without storage still saves to the server
    }
    return {
      put: (k, v) => run('readwrite', s => s.put(v, k)),
      del: k => run('readwrite', s => s.delete(k)),
      under: async prefix => {
        const range = IDBKeyRange.bound(prefix, prefix + '\uffff')
        const keys = await run('readonly', s => s.getAllKeys(range)) ?? []
        const values = await run('readonly', s => s.getAll(range)) ?? []
        return keys.map((k, i) => [k, values[i]])
      },
      clear: () => run('readwrite', s => s.clear()),
    }
  })()
  globalThis.ulvantStore = store

  const token = () => document.querySelector('meta[name=form-token]').content
  const fresh = () => crypto.randomUUID().replaceAll('-', '')

  document.querySelectorAll('form[action="/sign-out"]').forEach(f => f.addEventListener('submit', async e => {
    e.preventDefault()
    await flush?.()
    if (pending.size && !confirm('Some of what you typed has not reached the server yet. Sign out and lose it?')) return
    await store.clear()
    f.submit()
  }))

  const pending = new Map() // name → edit
  const unanswered = new Map() // name → ids of edits that were sent and not answered; the server may have them
  let flush

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

  const root = document.getElementById('workspace')
  if (!root) return
  const { ref, section, save, who } = root.dataset
  const prefix = `${who}|${ref}|`
  const kept = document.getElementById('kept'), dot = document.querySelector('[data-dot]')
  let closed = 'closed' in root.dataset

  root.dataset.state = 'ready'
  const state = (name, text, look) => {
    root.dataset.state = name
    if (text) kept.textContent = text
    dot.className = 'dot' + (look ? ' ' + look : '')
  }
  const inputs = name => [...root.querySelectorAll(`[name="${CSS.escape(name)}"][data-save]`)]
  const versionOf = name => root.querySelector(`[data-versionof="${CSS.escape(name)}"]`)
  const nonOf = name => root.querySelector(`[data-non="${CSS.escape(name)}"]`)
  const read = name => {
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
  const write = (name, e) => {
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
  const choose = (group, name, key, label) => {
    const l = document.createElement('label'), i = document.createElement('input')
    Object.assign(i, { type: 'checkbox', name, value: key, checked: true })
    i.setAttribute('form', 'answers'); i.dataset.save = ''; i.dataset.several = ''
    l.append(i, ' ' + (label ?? key.replace(/^new: (.*)$/, '$1 (proposed)')))
    group.append(l)
  }
  const place = name => { const [question, row = '', column = ''] = name.split(':'); return { question, row, column } }
  const nameOf = r => r.row || r.column ? `${r.question}:${r.row ?? ''}:${r.column ?? ''}` : r.question

  const meters = () => root.querySelectorAll('[data-meter]').forEach(m => {
    const box = m.closest('[data-q]'), field = box.querySelector('textarea, input.in'), most = +m.dataset.words
    if (!most || !field) return
    const n = words(field.value), c = m.querySelector('[data-count]'), bar = m.querySelector('[data-bar]')
    c.textContent = n > most ? `${n} of ${most} words, ${n - most} over` : `${n} of ${most} words`
    c.classList.toggle('over', n > most)
    bar?.setAttribute('width', Math.min(180, 180 * n / most))
    bar?.setAttribute('fill', n > most ? '#B9431C' : '#17453F')
  })
  meters()

  // What has not reached the server says so beside its answer, once that is
  // more than a moment ago.
  const mark = name => {
    const box = inputs(name)[0]?.closest('[data-q]') ?? nonOf(name)?.closest('[data-q]')
    if (!box) return
    const key = box.dataset.q, here = [...pending.keys()].some(n => n === key || n.startsWith(key + ':'))
    let p = box.querySelector('.unsent')
    if (!here) { p?.remove(); return }
    if (!p) {
      p = Object.assign(document.createElement('p'), { className: 'unsent', textContent: 'Not on the server yet; kept in this browser.' })
      box.append(p)
    }
  }
  const troubled = () => ['slow', 'lost'].includes(root.dataset.state)
  const lostWords = 'The line is lost. Go on writing: everything is kept in this browser and sent when the line is back.'

  let last = 0, first = 0, inFlight = false, retry = 0, halted = false
  const typed = name => {
    if (closed) return
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

  const conflict = (r, mine) => {
    const name = nameOf(r), box = inputs(name)[0]?.closest('[data-q]') ?? root.querySelector(`[data-q="${CSS.escape(r.question)}"]`)
    if (!box) return
    box.querySelector('.theirs')?.remove()
    const d = document.createElement('div')
    d.className = 'theirs'
    d.setAttribute('role', 'alert')
    const p = document.createElement('p'), pre = document.createElement('pre')
    p.textContent = 'This answer was changed in another window or by somebody else. Yours is in the box; theirs is:'
    pre.textContent = r.theirs || '(nothing)'
    d.append(p, pre)
    for (const [label, act] of [['Keep mine', () => ({ ...mine, version: r.version, edit: fresh() })], ['Take theirs', () => null], ['Join both', () => ({ value: r.theirs + '\n\n' + mine.value, non: '', version: r.version, edit: fresh() })]]) {
      const b = document.createElement('button')
      b.type = 'button'; b.className = 'btn ghost small'; b.textContent = label
      b.onclick = () => {
        const e = act()
        if (e) { write(name, e); pending.set(name, e); store.put(prefix + name, e) } else { write(name, { value: r.theirs }); pending.delete(name); store.del(prefix + name) }
        const v = versionOf(name); if (v) v.value = r.version
        held.delete(name); d.remove(); mark(name); meters(); flush()
      }
      d.append(b, ' ')
    }
    box.append(d)
  }
  const held = new Set() // names whose conflict waits for a choice

  flush = async (leaving = false) => {
    // a page that is left sends what is pending even while a save is in flight:
    // the server takes the same edit twice as one
    if (inFlight && !leaving || halted || closed) return
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
    if (res.status === 401) { halted = true; state('signed-out', 'Your session has run out. What you typed is kept in this browser.', 'lost'); document.getElementById('again').showModal(); return }
    if (!res.ok) { halted = true; state('refused', (body.fault ?? 'It could not be kept.') + ' What you typed is still in this browser.', 'lost'); return }
    applied(body, new Map(batch))
    if (pending.size > held.size) flush()
  }

  const applied = (body, sent) => {
    for (const r of body.results) {
      const name = nameOf(r), mine = sent.get(name), now = pending.get(name)
      unanswered.delete(name)
      if (r.fault) { note(name, r.fault); pending.delete(name); mark(name); continue }
      if (r.conflict) { held.add(name); conflict(r, now ?? mine); continue }
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
    else {
      state('kept')
      kept.replaceChildren('Everything you typed is kept on the server, last at ', Object.assign(document.createElement('span'), { className: 'num', textContent: body.clock }))
    }
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
  }

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

  // settle waits a few seconds for all to be kept; true when it is.
  const settle = async () => {
    const end = Date.now() + 6000
    while (pending.size > held.size && !halted && Date.now() < end) {
      flush()
      await new Promise(r => setTimeout(r, 100))
      if (root.dataset.state === 'lost' && !inFlight) break
    }
    return pending.size === 0
  }
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
  addEventListener('online', () => { retry = 0; flush() })
  addEventListener('offline', () => state('lost', lostWords, 'lost'))

  document.getElementById('again-form').addEventListener('submit', async e => {
    e.preventDefault()
    const says = document.getElementById('again-problem')
    try {
      const form = new FormData(e.target)
      form.set('form_token', token())
      const page = await fetch('/sign-in', { headers: { Accept: 'text/html' } }) // a form token for the seed, now that the session is gone
      const doc = new DOMParser().parseFromString(await page.text(), 'text/html')
      form.set('form_token', doc.querySelector('meta[name=form-token]').content)
      const second = document.getElementById('again-second'), ticket = e.target.elements.ticket
      const res = await fetch(ticket.value ? '/sign-in/code' : '/sign-in', { method: 'POST', headers: { Accept: 'application/json' }, body: new URLSearchParams(form) })
      const body = await res.json()
      ticket.value = body.ticket ?? ''
      second.hidden = !ticket.value
      if (ticket.value) document.getElementById('again-code').focus()
      if (!res.ok) { says.textContent = body.fault; return }
      if (body.name !== who) { says.textContent = `That is ${body.name}’s account. What is typed here belongs to ${who}.`; return }
      document.querySelector('meta[name=form-token]').content = body.token
      document.querySelectorAll('input[name=form_token]').forEach(i => { i.value = body.token })
      document.getElementById('again').close()
      halted = false; flush()
    } catch { says.textContent = 'The line is lost; try again in a moment.' }
  })

  // Who else is here, while the page is seen: one stream for a page, none for
  // one that is hidden, and two at most in one browser: it opens only six
  // connections to a server, and saving needs them more. What others changed is
  // fetched, and set where nothing is typed; a page without a stream looks now
  // and then.
  const others = document.getElementById('others'), where = root.dataset.together
  if (where && others) {
    const tab = fresh()
    let source, letGo
    const refetch = async () => {
      try {
        const res = await fetch(`/applications/${ref}/answers?section=${encodeURIComponent(section)}`, { headers: { Accept: 'application/json' } })
        if (!res.ok) return
        for (const [name, a] of Object.entries((await res.json()).answers)) {
          const v = versionOf(name)
          if (!v || +v.value === a.version || pending.has(name) || inputs(name).includes(document.activeElement)) continue
          write(name, a)
          v.value = a.version
        }
        meters()
      } catch { /* told again with the next beat */ }
    }
    const lock = async n => {
      if (!navigator.locks) { open(); return true }
      return new Promise(done => navigator.locks.request('ulvant-stream-' + n, { ifAvailable: true }, l => {
        done(!!l)
        if (!l) return undefined
        return new Promise(end => { letGo = end; open() })
      }))
    }
    const close = () => { source?.close(); source = undefined; letGo?.(); letGo = undefined }
    const open = () => {
      source = new EventSource(`${where}?section=${encodeURIComponent(section)}&tab=${tab}`)
      let first = true
      source.onmessage = e => {
        const { who, changed, over } = JSON.parse(e.data)
        if (over) {
          close(); closed = true; others.textContent = ''
          document.querySelectorAll('[data-save]').forEach(el => { el.readOnly = true; if (el.matches('select, [type=radio], [type=checkbox]')) el.disabled = true })
          state('refused', pending.size ? 'This application was sent meanwhile. What you typed last is not in it; it is still in this browser.' : 'This application was sent meanwhile. It can only be read now.', 'lost')
          return
        }
        const words = (who ?? []).map(p => p.Section === section ? `${p.Name} is on this page too` : `${p.Name} is in “${document.querySelector(`[href$="/sections/${CSS.escape(p.Section)}"] span`)?.textContent ?? 'another part'}”`).join(' · ')
        if (others.textContent !== words) others.textContent = words
        if (changed || first) refetch()
        first = false
      }
    }
    const seen = async () => {
      if (document.visibilityState !== 'visible') { close(); return }
      if (source) return
      if (!await lock(1) && !await lock(2)) refetch()
    }
    document.addEventListener('visibilitychange', seen)
    addEventListener('pagehide', close)
    setInterval(seen, 15000)
    seen()
  }

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

  // What an earlier page could not send is taken up again.
  store.under(prefix).then(list => {
    for (const [k, e] of list) {
      const name = k.slice(prefix.length)
      if (pending.has(name)) continue
      pending.set(name, e); unanswered.set(name, e.after ?? []); write(name, e); mark(name)
    }
    if (pending.size) { meters(); state('dirty', 'Sending what was kept in this browser…', 'wait'); flush() }
  })
})()
