// What is typed and not on the server yet, kept in this browser (IndexedDB), by
// account and application. A browser without storage still saves to the server.
'use strict'
export const store = (() => {
  let db
  const open = () => (db ??= new Promise((done, fail) => {
    const r = indexedDB.open('ulvant', 1)
    r.onupgradeneeded = () => r.result.createObjectStore('edits')
    r.onsuccess = () => done(r.result)
    r.onerror = () => fail(r.error)
  }))
  const run = async (mode, f) => {
    try {
      const tx = (await open()).transaction('edits', mode)
      const out = f(tx.objectStore('edits'))
      return await new Promise((done, fail) => { tx.oncomplete = () => done(out.result); tx.onerror = () => fail(tx.error) })
    } catch { return undefined } // a browser without storage still saves to the server
  }
  return {
    put: (k, v) => run('readwrite', s => s.put(v, k)),
    del: k => run('readwrite', s => s.delete(k)),
    under: async prefix => {
      const range = IDBKeyRange.bound(prefix, prefix + '\uffff')
      const keys = await run('readonly', s => s.getAllKeys(range)) ?? []
      const values = await run('readonly', s => s.getAll(range)) ?? []
      return keys.map((k, i) => [k, values[i]])
    },
    clear: () => run('readwrite', s => s.clear()),
  }
})()
