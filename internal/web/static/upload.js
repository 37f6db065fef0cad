// Chosen, dropped or pasted files are put in at once, one after another, with
// how much of each has arrived; without scripts the button beside the chooser
// does that for one. When the line is lost what is left stays chosen and the
// button tries again.
'use strict'
const mega = 1048576
const putter = form => {
  const input = form.querySelector('[type=file]'), button = form.querySelector('button'), box = form.closest('[data-q]') ?? form
  const says = Object.assign(document.createElement('p'), { className: 's soft', role: 'status' })
  const fault = Object.assign(document.createElement('p'), { className: 'problem', role: 'alert' })
  form.after(says, fault)
  input.multiple = 'several' in form.dataset
  form.querySelector('[data-drophint]')?.removeAttribute('hidden')
  let left = []
  const failed = text => { says.textContent = ''; fault.textContent = text; input.disabled = button.hidden = false; button.textContent = 'Try again' }
  const tooLarge = file => `${file.name} is ${(file.size / mega).toFixed(1)} MB; up to ${form.dataset.most / mega} MB are taken here. ` +
    'Nothing of it was sent. Make it smaller, by saving its pictures at a lower quality, and choose it again.'
  const one = (file, place) => new Promise(done => {
    const x = new XMLHttpRequest(), body = new FormData(form)
    body.set('file', file)
    x.open('POST', form.action)
    x.upload.onprogress = e => { says.textContent = e.total > 300000 ? `${place}${file.name}: ${Math.floor(100 * e.loaded / e.total)}% has arrived` : `${place}${file.name} is on its way` }
    x.upload.onload = () => { says.textContent = `${place}${file.name} has arrived and is being opened` }
    x.onload = () => {
      if (x.status < 300) { done(''); return }
      const page = new DOMParser().parseFromString(x.responseText, 'text/html')
      done((page.querySelector(`#${form.dataset.upload} .problem`) ?? page.querySelector('main .problem, main .lead'))?.textContent.trim() || 'It was not taken. Try again in a minute.')
    }
    x.onerror = () => done(`The line was lost on the way; ${file.name} is not in. It is still chosen.`)
    x.send(body)
  })
  const put = async files => {
    if (input.disabled || !files.length) return
    if (!input.multiple && files.length > 1) { failed(`One file goes here; these are ${files.length}. Nothing was sent: choose one.`); button.hidden = true; return }
    left = [...files]
    const all = left.length, large = left.find(f => +form.dataset.most && f.size > +form.dataset.most)
    if (large) { // said before a byte is sent: the server would not take it
      failed(tooLarge(large)); button.hidden = true; input.value = ''; left = []
      return
    }
    fault.textContent = ''; input.disabled = button.hidden = true
    while (left.length) {
      const wrong = await one(left[0], all > 1 ? `${all - left.length + 1} of ${all}: ` : '')
      if (wrong) { failed(wrong); return }
      left.shift()
    }
    location.hash = form.dataset.upload; location.reload()
  }
  button.hidden = true
  input.addEventListener('change', () => put(input.files))
  form.addEventListener('submit', e => { if (left.length || input.files.length) { e.preventDefault(); put(left.length ? left : input.files) } })
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
