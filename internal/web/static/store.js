// What is typed and not on the server yet, and files that are on their way, kept in
// this browser (IndexedDB), by account and application. A browser without storage
// still saves to the server.
'use strict'
let db
const open = () => (db ??= new Promise((done, fail) => {
  const r = indexedDB.open('ulvant', 2)
  r.onupgradeneeded = () => ['edits', 'files'].forEach(n => { if (!r.result.objectStoreNames.contains(n)) r.result.createObjectStore(n) })
  r.onsuccess = () => { r.result.onversionchange = () => r.result.close(); done(r.result) }
  r.onerror = () => fail(r.error)
}))
const shelf = name => {
  const run = async (mode, f) => {
    try {
      const tx = (await open()).transaction(name, mode)
      const out = f(tx.objectStore(name))
      return await new Promise((done, fail) => { tx.oncomplete = () => done(out.result); tx.onerror = () => fail(tx.error) })
    } catch { return undefined } // a browser without storage still saves to the server
  }
  // what is written in one go is one transaction: a pasted budget has thousands of cells
  let waiting = null
  const write = (k, v) => {
    if (!waiting) {
      const all = waiting = new Map()
      all.done = Promise.resolve().then(() => { waiting = null; return run('readwrite', s => { all.forEach((v, k) => v === undefined ? s.delete(k) : s.put(v, k)); return {} }) })
    }
    waiting.set(k, v)
    return waiting.done
  }
  return {
    put: write,
    del: k => write(k),
    under: async prefix => {
      await waiting?.done
      const range = IDBKeyRange.bound(prefix, prefix + '\uffff')
      const keys = await run('readonly', s => s.getAllKeys(range)) ?? []
      const values = await run('readonly', s => s.getAll(range)) ?? []
      return keys.map((k, i) => [k, values[i]])
    },
    clear: () => run('readwrite', s => s.clear()),
  }
}
export const store = shelf('edits') // what is typed
export const kept = shelf('files') // what is on its way, by its address
