// A budget added up in the page as core/budget does on the server: whole minor
// units as BigInt, each product rounded half up once. Nothing of the page here.
'use strict'
const MOST = 10n ** 15n
const half = (n, den) => (2n * n + den) / (2n * den)
const blanks = /[\u00a0\u202f\u2009'’]/g

// money reads a sum as core/money does; null for what is none.
export const money = (text, { digits, symbol, code }) => {
  let s = text.trim()
  if (/[^0-9.,]/.test(s)) {
    for (const sym of [symbol.trim(), code]) {
      if (s.startsWith(sym)) s = s.slice(sym.length).trim()
      if (s.endsWith(sym)) s = s.slice(0, s.length - sym.length).trim()
    }
    s = s.replace(blanks, ' ')
  }
  const neg = /^[-−]/.test(s)
  s = s.replace(/^-/, '').replace(/^−/, '')
  let cents = ''
  const i = Math.max(s.lastIndexOf('.'), s.lastIndexOf(','))
  if (i >= 0 && s.length - i - 1 <= digits && digits > 0 && s.length > 1) {
    if (s.slice(0, i).includes(s[i])) return null
    cents = s.slice(i + 1); s = s.slice(0, i) || '0'
  }
  const marks = new Set(s.replace(/[0-9]/g, ''))
  if (!s || marks.size > 1 || /[^0-9., ]/.test(s)) return null
  if (marks.size) {
    const groups = s.split([...marks][0])
    if (groups.some((g, n) => n === 0 ? g.length < 1 || g.length > 3 || g[0] === '0' : g.length !== 3)) return null
    s = groups.join('')
  }
  if (s.length > 13 || /[^0-9]/.test(cents)) return null
  const n = BigInt(s + cents.padEnd(digits, '0'))
  return n >= MOST ? null : neg ? -n : n
}

// quantity reads how many as core/decimal does: [whole number, divisor] or null.
export const quantity = text => {
  let s = text.trim()
  const thousands = /^[-−]?[1-9][0-9]{0,2}(,[0-9]{3})+$/
  const point = s.indexOf('.'), comma = s.indexOf(',')
  if (comma >= 0) {
    if (point > comma || point < 0 && thousands.test(s)) {
      if (!thousands.test(s.split('.')[0])) return null
      s = s.replaceAll(',', '')
    } else if (s.length - comma - 1 > 2 && !s.replace(/^[-−]+/, '').startsWith('0,')) return null
    else if (point >= 0) {
      if (!thousands.test(s.split(',')[0].replaceAll('.', ','))) return null
      s = s.replaceAll('.', '')
    }
  }
  s = s.replaceAll(',', '.')
  const m = /^([-−]?)([0-9]+)(?:\.([0-9]*))?$/.exec(s)
  if (!m || (m[2] + (m[3] ?? '')).length > 17) return null
  const n = BigInt(m[2] + (m[3] ?? ''))
  return [m[1] ? -n : n, 10n ** BigInt((m[3] ?? '').length)]
}

const order = ['own', 'promised', 'applied', 'in-kind']
const payers = ['own money', 'another funder, promised', 'another funder, applied for', 'in kind']

// line reads one line from its cells; null for one with nothing in it, and
// cost null for one that cannot be added up.
export const line = (at, rules) => {
  let some = !!at('item').trim(), bad = !some
  const sum = (k, needed) => {
    const raw = at(k).trim()
    some ||= !!raw
    const n = raw ? money(raw, rules) : needed ? null : 0n
    if (n === null || n < 0n) { bad = true; return 0n }
    return n
  }
  const l = { heading: at('heading'), period: at('period'), partner: at('partner'), gives: at('gives'), parts: [0n, 0n, 0n, 0n] }
  if (rules.quantities) {
    let q = [1n, 1n]
    const raw = at('quantity').trim(), value = BigInt(rules.gifts[l.gives] ?? 0)
    if (raw) { some = true; q = quantity(raw); if (!q || q[0] < 0n) { bad = true; q = [1n, 1n] } }
    const each = value > 0n && !at('each').trim() ? value : sum('each', true)
    l.cost = half(q[0] * each, q[1])
    if (l.cost >= MOST) { bad = true; l.cost = 0n }
  } else l.cost = sum('cost', true)
  l.us = sum('from-us', false)
  const sources = rules.sources ?? []
  order.forEach((k, i) => {
    if (sources.includes(k)) l.parts[i] = sum(k, false)
    else if (!sources.length && at('payer') === payers[i] && l.cost > l.us) l.parts[i] = l.cost - l.us
  })
  return some ? { ...l, bad } : null
}

const indirect = (lines, rules) => {
  let base = 0n, all = 0n
  const used = new Map(), known = rules.periods ?? []
  const one = has => {
    let within = 0n
    lines.forEach((l, i) => {
      const b = (rules.bases ?? []).find(x => x.heading === l.heading)
      if (!b || !has(l)) return
      let n = rules.ofAsked ? l.us : l.cost
      const line = BigInt(b.lineMost), partner = BigInt(b.partnerMost)
      if (line > 0n && n > line) n = line
      if (partner > 0n) {
        const who = l.heading + '\0' + (l.partner || i), left = partner - (used.get(who) ?? 0n)
        if (n > left) n = left
        used.set(who, (used.get(who) ?? 0n) + n)
      }
      within += n
    })
    base += within; all += half(within * BigInt(rules.rate), 10000n)
  }
  known.forEach(p => one(l => l.period === p))
  one(l => !known.includes(l.period))
  return [base, all]
}

export const plain = (n, digits) => {
  const sign = n < 0n ? '-' : '', unit = 10n ** BigInt(digits), u = n < 0n ? -n : n
  const cents = u % unit, whole = String(u / unit).replace(/\B(?=(\d{3})+$)/g, ',')
  return sign + whole + (cents ? '.' + String(cents).padStart(digits, '0') : '')
}
export const percent = (part, whole) => {
  if (whole <= 0n) return ''
  const sign = part < 0n ? '−' : '', tenths = half((part < 0n ? -part : part) * 1000n, whole)
  return sign + tenths / 10n + (tenths % 10n ? '.' + tenths % 10n : '') + '%'
}

// sums writes all that is worked out of a budget under the names the server has
// for it. rows are [key, line] of those that hold something.
export const sums = (rows, headings, rules) => {
  const out = {}, show = n => (n < 0n ? '−' : '') + rules.symbol + plain(n < 0n ? -n : n, rules.digits)
  for (const [key, l] of rows) {
    out['row-' + key] = plain(l.cost, rules.digits)
    if (!(rules.sources ?? []).length) out['rest-' + key] = plain(l.cost - l.us, rules.digits)
  }
  const lines = rows.map(r => r[1])
  const t = lines.length && !lines.some(l => l.bad)
  const by = (k, of) => lines.reduce((m, l) => m.set(l[k], (m.get(l[k]) ?? 0n) + l[of]), new Map())
  const direct = lines.reduce((n, l) => n + l.cost, 0n), [base, extra] = rules.rate ? indirect(lines, rules) : [0n, 0n]
  const cost = direct + extra, us = lines.reduce((n, l) => n + l.us, rules.byOwn ? 0n : extra), match = cost - us
  const parts = order.map((_, i) => lines.reduce((n, l) => n + l.parts[i], i === 0 && rules.byOwn ? extra : 0n))
  const put = (name, n) => { out[name] = t ? show(n) : '' }
  put('cost', cost); put('from-us', us); put('match', match); put('base', base)
  if (rules.rate) put('indirect', extra)
  out['match-of-cost'] = t ? percent(match, cost) : ''
  out['match-of-asked'] = t ? percent(match, us) : ''
  const most = cost * BigInt(rules.inKindMost) / 100n
  const counted = rules.inKindMost && parts[3] > most ? match - (parts[3] - most) : match
  if (t && counted !== match) { put('counted', counted); out['counted-of-cost'] = percent(counted, cost) }
  const costs = by('heading', 'cost')
  headings.forEach(h => { const n = costs.get(h) ?? 0n; out['heading-' + h] = t && n > 0n ? show(n) + ' · ' + percent(n, cost) : '' })
  const asked = by('gives', 'us')
  if (!rules.byOwn) asked.set('', (asked.get('') ?? 0n) + extra)
  ;['', ...Object.keys(rules.gifts)].forEach(k => put('asked-' + k, asked.get(k) ?? 0n))
  for (const [of, list] of [['period', rules.periods], ['partner', rules.partners]]) {
    const sum = by(of, 'us')
    ;(list ?? []).forEach(k => put(of + '-' + k, sum.get(k) ?? 0n))
  }
  const pays = [['us', us], ...order.map((k, i) => [k, parts[i]])]
  for (const [k, n] of pays) out['pays-' + k] = t && n > 0n && cost > 0n ? show(n) + ' · ' + percent(n, cost) : ''
  if (t) for (const [k, n] of [['cost', cost], ['from-us', us], ['match', match], ...order.map((k, i) => [k, parts[i]])]) if (n || k === 'cost') out['all-' + k] = plain(n, rules.digits)
  let at = 0n
  const strip = pays.map(([k, n]) => { const w = t && n > 0n && cost > 0n ? n * 1000n / cost : 0n, x = at; at = at + w > 1000n ? 1000n : at + w; return [k, Number(x), Number(at - x)] })
  return { out, strip, adds: !!t }
}
