// Who else is here, and what they changed.
'use strict'
import { reached, redrawn } from './grid.js'
import { fresh, inputs, life, meters, pending, ref, root, section, state, versionOf, write } from './draft.js'

// While the page is seen: one stream for a page, none for
// one that is hidden, and two at most in one browser: it opens only six
// connections to a server, and saving needs them more. What others changed is
// fetched, and set where nothing is typed; a page without a stream looks now
// and then.
const others = document.getElementById('others'), where = root?.dataset.together
if (where && others) {
  const tab = fresh()
  let source, letGo
  const refetch = async () => {
    try {
      const res = await fetch(`/applications/${ref}/answers?section=${encodeURIComponent(section)}`, { headers: { Accept: 'application/json' } })
      if (!res.ok) return
      const { answers } = await res.json()
      reached(answers)
      for (const [name, a] of Object.entries(answers)) {
        const v = versionOf(name)
        if (!v || +v.value === a.version || pending.has(name) || inputs(name).includes(document.activeElement)) continue
        write(name, a)
        v.value = a.version
      }
      meters()
      redrawn()
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
        close(); life.closed = true; others.textContent = ''
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
