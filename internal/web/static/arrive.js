// Files on their way, in pieces (tus 1.0.0). A file that was chosen is kept in this
// browser until it has arrived, so that the next page of the application, or the
// same one tomorrow, goes on where it stopped; on another device the same file is
// chosen once more. One window sends a file at a time.
'use strict'
import { kept } from './store.js'
import { token } from './draft.js'

const atOnce = 3, least = 256 << 10, most = 4 << 20, seconds = 2, patience = 15000
export const onWay = new Map() // key → Arrival
const waiting = []
let going = 0
let told = () => {}
export const tell = f => { told = f }

let script
const client = () => (script ??= new Promise((done, fail) => {
  const s = Object.assign(document.createElement('script'), { src: new URL('tus.min.js', import.meta.url).href, onload: () => done(globalThis.tus), onerror: fail })
  document.head.append(s)
}))

// headOf is what a file is known by again on another device: a hash of its first
// bytes, or when it was changed last where a browser hashes nothing.
export const headOf = async file => {
  if (!globalThis.crypto?.subtle) return 'm' + file.lastModified
  const sum = await crypto.subtle.digest('SHA-256', await file.slice(0, 65536).arrayBuffer())
  return [...new Uint8Array(sum)].slice(0, 16).map(b => b.toString(16).padStart(2, '0')).join('')
}

class Arrival {
  constructor({ file, ref, slot, head, url, done = 0, account, after }) {
    Object.assign(this, { file, ref, slot, head, url, account, after, sent: done, total: file.size, name: file.name, state: 'waiting', fault: '', speed: 0 })
    this.key = url || crypto.randomUUID()
    this.created = new Promise(done => { this.isCreated = done })
    onWay.set(this.key, this)
    waiting.push(this)
    next()
  }

  // hold keeps other windows from sending it too; false when one does already.
  hold() {
    if (!navigator.locks) return Promise.resolve(true)
    return new Promise(answer => navigator.locks.request('arriving' + this.url, { ifAvailable: true }, lock => {
      answer(!!lock)
      return lock && new Promise(free => { this.free = free })
    }))
  }

  async begin() {
    going++
    this.say('going')
    const tus = await client().catch(() => null)
    if (!tus) return this.stop('lost', 'The line is lost.')
    if (this.url && !this.free && !await this.hold()) return this.stop('elsewhere')
    await this.after // those chosen together stand in the order in which they were chosen
    if (this.state !== 'going') return
    let at = performance.now(), from = this.sent
    this.up = new tus.Upload(this.file, {
      endpoint: `/applications/${this.ref}/arriving`, uploadUrl: this.url ?? null, chunkSize: 1 << 20,
      metadata: { slot: this.slot, filename: this.name, head: this.head }, headers: { 'X-Form-Token': token(), Accept: 'application/json' },
      retryDelays: [0, 1000, 3000, 5000, 10000, 20000], storeFingerprintForResuming: false,
      onShouldRetry: e => {
        const s = e.originalResponse?.getStatus() ?? 0
        if (s !== 409) { this.broken = true; this.say('going') }
        return s === 0 || s === 423 || s >= 500 && s !== 507 || s === 409 && !faultOf(e)
      },
      onUploadUrlAvailable: () => {
        if (this.url) return
        this.url = new URL(this.up.url, location.href).pathname
        kept.put(this.url, { file: this.file, ref: this.ref, slot: this.slot, head: this.head, account: this.account })
        this.hold()
        this.isCreated()
        this.say('going')
      },
      onProgress: sent => {
        if (sent > this.sent) this.broken = false
        const now = performance.now()
        if (now - at > 500) {
          const speed = Math.max(0, sent - from) / (now - at) * 1000
          this.speed = this.speed ? this.speed * 0.8 + speed * 0.2 : speed
          at = now; from = sent
        }
        this.sent = sent
        this.moved = now
        this.still = false
        this.say('going')
      },
      onChunkComplete: size => { // pieces of about two seconds: that much is lost with a line
        const took = (performance.now() - (this.piece ?? at)) / 1000
        this.piece = performance.now()
        this.up.options.chunkSize = Math.round(Math.min(most, Math.max(least, size * seconds / Math.max(took, 0.05))))
      },
      onSuccess: () => { kept.del(this.url); this.sent = this.total; this.stop('arrived') },
      onError: e => {
        const fault = faultOf(e), status = e.originalResponse?.getStatus() ?? 0
        if (status === 404 || status === 410) { kept.del(this.url); return this.stop('faulty', fault || `${this.name} was given up. Choose it once more.`) }
        if (fault && status !== 401 && status < 500) return this.stop('faulty', fault)
        this.stop('lost', fault)
        this.timer = setTimeout(() => this.goOn(), patience)
      },
    })
    this.piece = this.moved = performance.now()
    this.up.start()
  }

  say(state) { this.state = state; if (state !== 'going') this.broken = false; told(this) }
  stop(state, fault = '') {
    going--
    this.isCreated()
    this.fault = fault
    if (state === 'arrived' || state === 'faulty') { this.free?.(); this.free = undefined; onWay.delete(this.key) }
    this.say(state)
    next()
  }
  pause() { if (this.state !== 'going') return; this.up?.abort(); this.stop('paused') }
  goOn() {
    clearTimeout(this.timer)
    if (this.state === 'going' || this.state === 'waiting' || !onWay.has(this.key)) return
    waiting.push(this); this.say('waiting'); next()
  }
  async giveUp() {
    clearTimeout(this.timer)
    this.isCreated()
    if (this.state === 'going') going--
    waiting.splice(0, waiting.length, ...waiting.filter(a => a !== this))
    onWay.delete(this.key)
    try { await this.up?.abort(false) } catch { /* it stands already */ }
    if (this.url) {
      kept.del(this.url)
      await fetch(this.url, { method: 'DELETE', headers: { 'Tus-Resumable': '1.0.0', 'X-Form-Token': token() } }).catch(() => {})
    }
    this.free?.()
    this.say('gone')
    next()
  }
}

const faultOf = e => { try { return JSON.parse(e.originalResponse?.getBody() ?? '').fault ?? '' } catch { return '' } }
const next = () => { while (going < atOnce && waiting.length) waiting.shift().begin() }

// begin sends a file into a slot; url is of the upload it goes on with.
export const begin = async (ref, slot, account, file, url, done, after) => new Arrival({ file, ref, slot, account, url, done, after, head: await headOf(file) })

// takeUp goes on with what this browser still has of an application.
export const takeUp = async (ref, account, at) => {
  for (const [url, f] of await kept.under(`/applications/${ref}/`)) {
    if (f.account !== account || onWay.has(url)) continue
    if (!await readable(f.file)) { kept.del(url); continue }
    new Arrival({ ...f, url, done: at(url) })
  }
}
const readable = async file => { try { await file.slice(0, 1).arrayBuffer(); return true } catch { return false } }

// A line may stand still without being cut: that is said too.
setInterval(() => onWay.forEach(a => {
  const still = a.state === 'going' && performance.now() - a.moved > 8000
  if (still && !a.still) { a.still = true; a.say('going') }
}), 2000)

addEventListener('online', () => onWay.forEach(a => { if (a.state === 'lost') a.goOn() }))
