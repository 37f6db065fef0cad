// A chosen file is put in at once, with how much of it has arrived; without
// scripts the button beside it does that. When the line is lost the file stays
// chosen and the button tries again.
'use strict'
document.querySelectorAll('form[data-upload]').forEach(form => {
  const input = form.querySelector('[type=file]'), button = form.querySelector('button')
  const says = Object.assign(document.createElement('p'), { className: 's soft', role: 'status' })
  const fault = Object.assign(document.createElement('p'), { className: 'problem', role: 'alert' })
  form.after(says, fault)
  const failed = text => { says.textContent = ''; fault.textContent = text; input.disabled = button.hidden = false; button.textContent = 'Try again' }
  const put = () => {
    const file = input.files[0]
    if (!file || input.disabled) return
    const most = +form.dataset.most
    if (most && file.size > most) { // said before a byte is sent: the server would not take it
      failed(`${file.name} is ${(file.size / 1048576).toFixed(1)} MB; up to ${most / 1048576} MB are taken here. Nothing was sent. Make it smaller, by saving its pictures at a lower quality, and choose it again.`)
      button.hidden = true; input.value = ''
      return
    }
    const x = new XMLHttpRequest(), body = new FormData(form)
    x.open('POST', form.action)
    x.upload.onprogress = e => { says.textContent = e.total > 300000 ? `${file.name}: ${Math.floor(100 * e.loaded / e.total)}% has arrived` : `${file.name} is on its way` }
    x.upload.onload = () => { says.textContent = `${file.name} has arrived and is being opened` }
    x.onload = () => {
      if (x.status < 300) { location.hash = form.dataset.upload; location.reload(); return }
      const page = new DOMParser().parseFromString(x.responseText, 'text/html')
      failed((page.querySelector(`#${form.dataset.upload} .problem`) ?? page.querySelector('main .problem, main .lead'))?.textContent.trim() || 'It was not taken. Try again in a minute.')
    }
    x.onerror = () => failed('The line was lost on the way; the file is not in. It is still chosen.')
    fault.textContent = ''; input.disabled = button.hidden = true
    x.send(body)
  }
  button.hidden = true
  input.addEventListener('change', put)
  form.addEventListener('submit', e => { if (input.files.length) { e.preventDefault(); put() } })
})
