// Decisions: a sum is asked only for an award; recording asks once more.
'use strict'
;(() => {
  const form = document.getElementById('record')
  if (!form) return
  const boxes = [...document.querySelectorAll('.outcome')]
  const show = b => { b.querySelector('input').hidden = b.querySelector('select').value !== 'awarded' }
  boxes.forEach(b => { show(b); b.querySelector('select').addEventListener('change', () => show(b)) })
  form.addEventListener('submit', e => {
    const n = {}
    boxes.forEach(b => { const v = b.querySelector('select').value; if (v) n[v] = (n[v] ?? 0) + 1 })
    const says = Object.entries(n).map(([k, v]) => `${v} ${k}`).join(', ')
    if (!confirm(`Record ${says}? Letters are made at once and wait before they go out.`)) e.preventDefault()
  })
})()
