// Counts the published ballots of a vote again, exactly: whole numbers and fractions of
// BigInt, no library. It is a program of its own beside the server's; what the two come to
// is compared on the result page and in the tests. It runs in a worker, so that the page
// stays alive, or wherever `countAgain` is called with a published document.
'use strict';

const gcd = (a, b) => { while (b) [a, b] = [b, a % b]; return a < 0n ? -a : a; };
const frac = (n, d = 1n) => { const g = gcd(n, d) || 1n; return { n: n / g, d: d / g }; };
const less = (a, b) => a.n * b.d < b.n * a.d;
const minus = (a, b) => frac(a.n * b.d - b.n * a.d, a.d * b.d);
const text = a => a.d === 1n ? `${a.n}` : `${a.n}/${a.d}`;

// ballots that count, by the places of projects from 0, without those taken off the paper
function ballotsOf(doc, withLeftOut) {
  const off = doc.projects.map(p => p.off !== '');
  return doc.ballots.filter(b => withLeftOut || b[2] === 0).map(b =>
    doc.countedBy === 'points' ? b[1].map((n, p) => off[p] ? 0 : n) : b[1].map(n => n - 1).filter(p => !off[p]));
}

function cameTo(doc, ballots) {
  const n = doc.projects.length, came = new Array(n).fill(0);
  const standing = doc.projects.filter(p => p.off === '').length;
  for (const b of ballots) {
    if (doc.countedBy === 'points') b.forEach((k, p) => { came[p] += k; });
    else if (doc.countedBy === 'ranked') b.forEach((p, place) => { came[p] += standing - 1 - place; });
    else for (const p of new Set(b)) came[p]++;
  }
  return came;
}

// the places, most first; what came to as much stays in the order of the paper
const inOrder = came => came.map((_, p) => p).sort((a, b) => came[b] - came[a] || a - b);

// Equal shares. Voters who have as much left as each other are one class; a class knows
// how many of its voters approve of each project.
function shares(doc, ballots, came) {
  const n = doc.projects.length, costs = doc.projects.map(p => BigInt(p.cost));
  const tally = ids => { const of = new Array(n).fill(0); for (const i of ids) for (const p of new Set(ballots[i])) of[p]++; return of; };
  const all = ballots.map((_, i) => i);
  let classes = all.length ? [{ left: frac(BigInt(doc.budget), BigInt(all.length)), ids: all, of: tally(all) }] : [];
  const done = new Array(n).fill(false), rates = new Array(n).fill(null), bought = [];
  const look = p => { // what each payer pays at the most; null: they cannot pay for it
    let missing = frac(costs[p]), payers = 0n;
    for (const c of classes) if (c.left.n > 0n) payers += BigInt(c.of[p]);
    const number = Number(payers);
    for (const c of classes) { // those with least left first
      const k = BigInt(c.of[p]);
      if (!k || c.left.n === 0n) continue;
      const part = frac(missing.n, missing.d * payers);
      if (!less(c.left, part)) return { most: part, rate: doc.utility === 'cost' ? frac(part.n, part.d * costs[p]) : part, payers: number };
      missing = minus(missing, frac(c.left.n * k, c.left.d));
      payers -= k;
    }
    return null;
  };
  for (;;) {
    let best = -1, found = null;
    const order = all.length ? costs.map((_, p) => p).filter(p => !done[p]) : [];
    order.sort((a, b) => rates[a] && rates[b] ? (less(rates[a], rates[b]) ? -1 : less(rates[b], rates[a]) ? 1 : a - b)
      : (rates[a] ? 1 : 0) - (rates[b] ? 1 : 0) || a - b);
    for (const p of order) {
      if (found && rates[p] && less(found.rate, rates[p])) break; // a rate never falls
      const x = look(p);
      if (!x) { done[p] = true; continue; }
      rates[p] = x.rate;
      if (!found || less(x.rate, found.rate) || (!less(found.rate, x.rate) && p < best)) { best = p; found = x; }
    }
    if (!found) break;
    done[best] = true;
    bought.push({ number: best + 1, rate: text(found.rate), most: text(found.most), payers: found.payers });
    const after = new Map();
    const put = (left, ids, of) => {
      const key = text(left), have = after.get(key);
      if (have) { have.ids = have.ids.concat(ids); of.forEach((k, p) => { have.of[p] += k; }); } else after.set(key, { left, ids, of });
    };
    for (const c of classes) {
      if (!c.of[best] || c.left.n === 0n) { put(c.left, c.ids, c.of); continue; }
      const pay = c.ids.filter(i => ballots[i].includes(best)), others = c.ids.filter(i => !ballots[i].includes(best));
      const of = tally(pay), left = minus(c.left, found.most);
      put(left.n < 0n ? frac(0n) : left, pay, of);
      if (others.length) put(c.left, others, c.of.map((k, p) => k - of[p]));
    }
    classes = [...after.values()].sort((a, b) => less(a.left, b.left) ? -1 : less(b.left, a.left) ? 1 : 0);
  }
  let spent = bought.reduce((sum, b) => sum + doc.projects[b.number - 1].cost, 0);
  if (doc.rest === 'most votes') {
    for (const p of inOrder(came)) {
      if (came[p] > 0 && !bought.some(b => b.number === p + 1) && spent + doc.projects[p].cost <= doc.budget) {
        bought.push({ number: p + 1, rate: '', most: '', payers: 0 });
        spent += doc.projects[p].cost;
      }
    }
  }
  return { bought, spent };
}

// countAgain makes the same `result` that a published document holds.
function countAgain(doc, withLeftOut = false) {
  const ballots = ballotsOf(doc, withLeftOut), came = cameTo(doc, ballots);
  const raw = doc.ballots.filter(b => withLeftOut || b[2] === 0);
  const blank = raw.filter(b => doc.countedBy === 'points' ? !b[1].some(n => n > 0) : b[1].length === 0).length;
  const out = { ballots: ballots.length, blank, came, won: [], bought: [], spent: 0 };
  if (doc.countedBy === 'equal shares') {
    Object.assign(out, shares(doc, ballots, came));
    out.won = out.bought.map(b => b.number);
    return out;
  }
  const order = inOrder(came);
  order.forEach((p, k) => {
    const tied = k > 0 && came[p] === came[order[k - 1]] && out.won.length === k;
    if (came[p] > 0 && doc.projects[p].off === '' && (k < doc.named || tied)) out.won.push(p + 1);
  });
  return out;
}

if (typeof WorkerGlobalScope !== 'undefined' && self instanceof WorkerGlobalScope) {
  self.onmessage = e => self.postMessage({ without: countAgain(e.data), all: countAgain(e.data, true) });
}
