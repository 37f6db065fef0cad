// One more line for a table, wherever a table is filled in.
'use strict'
document.addEventListener('click', e => {
  if (!('addrow' in (e.target.dataset ?? {}))) return
  const body = e.target.closest('[data-q]').querySelector('tbody'), lastRow = body.lastElementChild, row = lastRow.cloneNode(true)
  const key = 'r' + String(+lastRow.dataset.row.slice(1) + 1).padStart(4, '0')
  row.dataset.row = key; row.classList.remove('faulty')
  row.querySelectorAll('[name]').forEach(i => {
    i.name = i.name.replace(lastRow.dataset.row, key)
    if (i.dataset.versionof) { i.dataset.versionof = i.dataset.versionof.replace(lastRow.dataset.row, key); i.value = 0 } else if (i.type === 'checkbox') i.checked = false; else i.value = ''
  })
  const computed = row.querySelector('[data-computed]'); if (computed) computed.textContent = ''
  body.append(row); row.querySelector('.in').focus()
})
