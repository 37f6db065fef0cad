// A session that ran out: the password is asked in place, and nothing typed is lost.
'use strict'
import { token, who } from './draft.js'
import { goOn } from './save.js'

document.getElementById('again-form')?.addEventListener('submit', async e => {
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
    goOn()
  } catch { says.textContent = 'The line is lost; try again in a moment.' }
})
