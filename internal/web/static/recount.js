// Counts a published vote again in this browser and compares it with what the page says.
'use strict';
const section = document.querySelector('[data-recount]');
const button = section.querySelector('button'), says = section.querySelector('[data-says]');
const say = text => { const p = document.createElement('p'); p.textContent = text; says.append(p); return p; };
const same = (a, b) => JSON.stringify(a) === JSON.stringify(b);
// a fraction of minor units, as money
const plain = (fraction, currency) => {
  const [n, d = '1'] = fraction.split('/');
  const format = new Intl.NumberFormat('en', { style: 'currency', currency });
  return format.format(Number(BigInt(n) * 1000n / BigInt(d)) / 1000 / 10 ** format.resolvedOptions().maximumFractionDigits);
};
button.hidden = false;
button.addEventListener('click', async () => {
  button.disabled = true;
  says.replaceChildren();
  try {
    say('Fetching the ballots…');
    const answer = await fetch(section.dataset.recount);
    if (!answer.ok) throw new Error(`the ballots could not be had (${answer.status})`);
    const doc = await answer.json();
    says.replaceChildren();
    say(`Counting ${doc.ballots.length} ballots…`);
    const began = performance.now();
    const counted = await new Promise((done, fail) => {
      const worker = new Worker(section.dataset.counting);
      worker.onmessage = e => { done(e.data); worker.terminate(); };
      worker.onerror = e => fail(new Error(e.message || 'the count could not be started'));
      worker.postMessage(doc);
    });
    const seconds = ((performance.now() - began) / 1000).toFixed(1);
    says.replaceChildren();
    const titles = won => won.length ? won.map(n => doc.projects[n - 1].title).join(', ') : 'nobody';
    const mine = counted.without;
    if (same(mine, doc.result)) {
      say(`The same: ${mine.ballots} ballots, counted here in ${seconds} s, name ${titles(mine.won)}.`).className = 'agrees';
      if (doc.countedBy === 'equal shares') {
        for (const b of mine.bought) {
          const title = doc.projects[b.number - 1].title;
          say(b.rate ? `${title}: ${b.payers} voters, each ${plain(b.most, doc.currency)} at the most` : `${title}: out of what is left`);
        }
      }
      if (doc.leftOut.length) say(`With the ballots that are left out, ${counted.all.ballots}, it would be ${titles(counted.all.won)}.`);
    } else {
      say(`Not the same: counted here they name ${titles(mine.won)}. Tell the office.`).className = 'problem';
    }
  } catch (e) {
    says.replaceChildren();
    say(`It could not be counted here: ${e.message}. Fetch the ballots below and count them with your own program.`).className = 'problem';
  }
  button.disabled = false;
});
