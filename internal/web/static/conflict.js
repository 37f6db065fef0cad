// An answer that was changed elsewhere too: both are shown, and one is chosen.
'use strict'
import { store } from './store.js'
import { fresh, held, inputs, mark, meters, nameOf, pending, prefix, root, versionOf, write } from './draft.js'

// conflict shows it; flush sends what is chosen.
export const conflict = (r, mine, flush) => {
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
