// Long work shows how far it has come; when it ends, the page is fetched anew.
'use strict'
;(() => {
  document.querySelectorAll('[data-work]:not([data-ended])').forEach(box => {
    const bar = box.querySelector('progress'), says = box.querySelector('[data-says]')
    const look = async () => {
      try {
        const w = await (await fetch(box.dataset.work, { headers: { Accept: 'application/json' } })).json()
        bar.value = w.done
        says.textContent = w.ended ? w.says : `${w.done} of ${w.total}; you can leave this page.`
        if (w.ended) { location.reload(); return }
      } catch { /* the next look will tell */ }
      setTimeout(look, 1000)
    }
    setTimeout(look, 500)
  })
})()
