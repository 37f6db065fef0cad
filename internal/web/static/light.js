// What can be looked at in the page: the light table, films with the part of them
// that was chosen, papers that are read where they stand.
'use strict'
const typing = e => e.ctrlKey || e.metaKey || e.altKey || e.target.closest('textarea, input:not([type=radio]), select, video, audio, dialog:not(.light)')

// A table shows one of its pictures, or two, at the size that fits or all at one scale.
const table = box => {
  const links = [...box.querySelectorAll('.strip a')], stage = box.querySelector('.stage')
  const one = stage.querySelector('[data-one]'), two = stage.querySelector('[data-two]'), scale = stage.querySelector('[data-scale]')
  let at = 0, beside = false, ruler = false
  stage.hidden = box.querySelector('.lightkeys').hidden = false
  const widest = Math.max(...links.map(a => +a.dataset.wide))
  const put = (pane, link) => {
    pane.href = link.href
    const img = pane.querySelector('img')
    if (img.getAttribute('src') !== link.href) { img.src = link.href; img.alt = link.querySelector('img').alt }
    const wide = +link.dataset.wide
    img.style.width = ruler && wide ? `${100 * wide / widest}%` : ''
  }
  const draw = () => {
    const link = links[at], second = links[at + 1] ?? links[0]
    put(one, link)
    two.hidden = !(beside && links.length > 1)
    if (!two.hidden) put(two, second)
    stage.classList.toggle('twoup', !two.hidden)
    stage.querySelector('[data-place]').textContent = `${at + 1} of ${links.length} · ${link.dataset.title}`
    const wide = +link.dataset.wide
    stage.querySelector('[data-said]').textContent = [link.dataset.said, wide ? `${Math.round(wide / 10)} mm wide` : ''].filter(Boolean).join(', ')
    const read = stage.querySelector('[data-read]')
    read.hidden = !link.dataset.case
    if (link.dataset.case) read.href = link.dataset.case
    scale.textContent = ruler ? (wide ? 'all at one scale' : 'this one does not say how large it is') : ''
    links.forEach((a, i) => a.classList.toggle('on', i === at))
    links[at].scrollIntoView({ block: 'nearest', inline: 'nearest' })
    for (const next of [links[at + 1], links[at - 1]]) if (next) new Image().src = next.href
  }
  const go = n => { at = (n + links.length) % links.length; draw() }
  links.forEach((a, i) => a.addEventListener('click', e => { if (e.ctrlKey || e.metaKey) return; e.preventDefault(); go(i) }))
  const large = () => document.fullscreenElement ? document.exitFullscreen() : stage.requestFullscreen?.()
  one.addEventListener('click', e => { if (e.ctrlKey || e.metaKey) return; e.preventDefault(); large() })
  let touched
  stage.addEventListener('touchstart', e => { touched = e.changedTouches[0].clientX }, { passive: true })
  stage.addEventListener('touchend', e => { const by = e.changedTouches[0].clientX - touched; if (Math.abs(by) > 40) go(at - Math.sign(by)) })
  const keys = { ArrowLeft: () => go(at - 1), ArrowRight: () => go(at + 1), l: large, b: () => { beside = !beside; draw() }, r: () => { ruler = !ruler && widest > 0; draw() } }
  document.addEventListener('keydown', e => {
    if (typing(e) || e.target.closest?.('.steps') && e.key.startsWith('Arrow') || !keys[e.key]) return
    e.preventDefault(); keys[e.key]()
  })
  draw()
}
const first = document.querySelector('[data-light]')
if (first) table(first)

document.querySelectorAll('[data-excerpt]').forEach(x => {
  const media = x.closest('.shown').querySelector('video, audio'), button = x.querySelector('button')
  if (!media) return
  button.hidden = false
  const end = () => { if (media.currentTime >= +x.dataset.to) { media.pause(); media.removeEventListener('timeupdate', end) } }
  button.onclick = () => { media.currentTime = +x.dataset.from; media.addEventListener('timeupdate', end); media.play() }
})

// A paper is drawn page by page as it comes into sight (pdf.js, loaded only now).
const paper = box => {
  const button = box.querySelector('button')
  button.hidden = false
  button.onclick = async () => {
    button.disabled = true; button.textContent = 'Opening it…'
    try {
      const at = f => new URL('pdf/' + f, import.meta.url).href
      const pdf = await import(at('pdf.min.mjs'))
      pdf.GlobalWorkerOptions.workerSrc = at('pdf.worker.min.mjs')
      const doc = await pdf.getDocument({ url: box.dataset.paper, isEvalSupported: false, useWasm: false, cMapUrl: at('cmaps/'), cMapPacked: true, standardFontDataUrl: at('standard_fonts/') }).promise
      const pages = document.createElement('div')
      Object.assign(pages, { className: 'pages', tabIndex: 0 })
      pages.setAttribute('role', 'group')
      pages.setAttribute('aria-label', `${box.dataset.name}, ${doc.numPages} pages`)
      button.remove()
      box.append(pages)
      const size = (await doc.getPage(1)).getViewport({ scale: 1 })
      const seen = new IntersectionObserver(list => list.forEach(async e => {
        if (!e.isIntersecting) return
        seen.unobserve(e.target)
        const page = await doc.getPage(+e.target.dataset.page), width = pages.clientWidth - 24, view = page.getViewport({ scale: 1 })
        const sharp = page.getViewport({ scale: width / view.width * Math.min(2, devicePixelRatio) })
        const canvas = e.target
        Object.assign(canvas, { width: sharp.width, height: sharp.height })
        canvas.style.height = ''
        await page.render({ canvas, canvasContext: canvas.getContext('2d'), viewport: sharp }).promise
        canvas.dataset.drawn = ''
      }), { root: pages, rootMargin: '600px' })
      for (let n = 1; n <= doc.numPages; n++) {
        const c = document.createElement('canvas')
        c.dataset.page = n
        c.setAttribute('role', 'img'); c.setAttribute('aria-label', `Page ${n}`)
        c.style.height = `${(pages.clientWidth - 24) * size.height / size.width}px`
        pages.append(c)
        seen.observe(c)
      }
    } catch { button.disabled = false; button.textContent = 'It could not be opened here. Try again, or fetch it' }
  }
}

// A sheet is a table: its first one, as whoever made it sees it.
const sheet = box => {
  const button = box.querySelector('button')
  button.hidden = false
  button.onclick = async () => {
    button.disabled = true
    const r = await fetch(box.dataset.sheet, { headers: { Accept: 'application/json' } }).catch(() => null)
    const t = await r?.json().catch(() => null)
    if (!r?.ok || !t?.rows) { button.disabled = false; button.textContent = t?.fault ?? 'The line is lost. Try again'; return }
    const wide = Math.max(1, ...t.rows.map(x => x.length)), table = document.createElement('table')
    table.className = 'tbl sheetview'
    table.append(Object.assign(document.createElement('caption'), { textContent: (t.name || box.dataset.name) + (t.more ? ', the beginning of it' : '') }))
    t.rows.forEach((row, i) => {
      const tr = table.insertRow()
      for (let n = 0; n < wide; n++) {
        const text = row[n] ?? '', cell = tr.appendChild(document.createElement(i ? 'td' : 'th'))
        cell.textContent = text
        if (/^[-+]?[\d., €$£%]+$/.test(text)) cell.className = 'r num'
      }
    })
    const scroll = Object.assign(document.createElement('div'), { className: 'scroll', tabIndex: 0 })
    scroll.setAttribute('role', 'region'); scroll.setAttribute('aria-label', box.dataset.name)
    scroll.append(table)
    button.replaceWith(scroll)
  }
}

// What comes into the page later is read in it too.
const bind = () => document.querySelectorAll('[data-paper]:not([data-bound]), [data-sheet]:not([data-bound])').forEach(box => {
  box.dataset.bound = ''
  'paper' in box.dataset ? paper(box) : sheet(box)
})
bind()
document.addEventListener('shown', bind)
