// The register: how many are chosen, a case beside the list without leaving it, and
// keys: x chooses, o opens beside, f asks about something, Esc closes.
'use strict'
;(() => {
  const form = document.getElementById('chosen'), beside = document.getElementById('beside'), main = document.querySelector('.register')
  const boxes = () => [...form?.querySelectorAll('input[name=case]') ?? []]
  const all = document.getElementById('allfit'), every = document.getElementById('every'), n = document.getElementById('nchosen')
  const count = () => {
    if (!form) return
    const k = boxes().filter(b => b.checked).length
    n.textContent = all.checked ? all.parentElement.textContent.replace(/\D/g, '') : k
    every.checked = k > 0 && k === boxes().length
    every.indeterminate = k > 0 && k < boxes().length
    boxes().forEach(b => b.closest('tr').classList.toggle('chosen', b.checked || all.checked))
    form.classList.toggle('some', k > 0 || all.checked)
    form.querySelectorAll('.outs a').forEach(a => {
      const to = new URL(a.href)
      to.searchParams.delete('case')
      if (!all.checked) boxes().filter(b => b.checked).forEach(b => to.searchParams.append('case', b.value))
      a.href = to.pathname + to.search
    })
  }
  let last = null
  form?.addEventListener('change', e => {
    if (e.target === every) boxes().forEach(b => { b.checked = every.checked })
    count()
  })
  form?.addEventListener('click', e => {
    if (e.target.name !== 'case') return
    if (e.shiftKey && last) {
      const list = boxes(), [a, b] = [list.indexOf(last), list.indexOf(e.target)].sort((x, y) => x - y)
      list.slice(a, b + 1).forEach(x => { x.checked = e.target.checked })
      count()
    }
    last = e.target
  })
  let from = null
  const close = () => {
    if (!beside.firstElementChild) return false
    beside.replaceChildren()
    main.classList.remove('withside')
    document.querySelector('tr.open')?.classList.remove('open')
    history.replaceState(null, '', location.pathname + location.search.replace(/([?&])beside=[^&]*&?/, '$1').replace(/[?&]$/, ''))
    from?.querySelector('a.main')?.focus()
    return true
  }
  const open = async row => {
    const a = row.querySelector('a.main')
    try {
      const there = new URL(a.href)
      const res = await fetch(row.dataset.beside + '?back=' + encodeURIComponent(there.pathname + there.search))
      if (!res.ok) throw new Error(res.status)
      const page = new DOMParser().parseFromString(await res.text(), 'text/html')
      const part = page.getElementById('besidecase')
      const x = document.createElement('a')
      x.className = 'close'; x.href = '#'; x.dataset.close = ''; x.textContent = 'close'
      part.querySelector('.rulehead').append(x)
      beside.replaceChildren(part)
      main.classList.add('withside')
      document.querySelector('tr.open')?.classList.remove('open')
      row.classList.add('open')
      from = row
      history.replaceState(null, '', there.pathname + there.search)
    } catch { location.href = a.href }
  }
  document.addEventListener('click', e => {
    if (e.target.closest('#beside [data-close]')) { e.preventDefault(); close(); return }
    const a = e.target.closest('.regtable a.main')
    if (a && !e.ctrlKey && !e.metaKey && !e.shiftKey && e.button === 0) { e.preventDefault(); open(a.closest('tr')) }
  })
  addEventListener('keydown', e => {
    if (e.key === 'Escape' && !document.querySelector('dialog[open]')) { close(); return }
    if (e.ctrlKey || e.metaKey || e.altKey || e.target.closest('input:not([type=checkbox]), textarea, select, dialog')) return
    const row = document.querySelector('.regtable tr.at') ?? document.activeElement.closest('.regtable tbody tr')
    if (e.key === 'f') { e.preventDefault(); document.getElementById('addcond').click() }
    else if (e.key === 'x' && row) { const b = row.querySelector('input[name=case]'); b.checked = !b.checked; count() }
    else if (e.key === 'o' && row) open(row)
  })
  count()
})()
