// Says beside the button how much of a ballot is filled in, and warns of too much before
// it is sent. Without it everything works; the server refuses what no ballot can say.
'use strict';
const form = document.getElementById('ballot');
if (form) {
  const says = form.querySelector('[data-count]'), by = form.dataset.by, most = Number(form.dataset.most);
  const look = () => {
    if (by === 'points') {
      const given = [...form.querySelectorAll('input.num')].reduce((sum, x) => sum + (Number(x.value) || 0), 0);
      says.textContent = given > most ? `${given - most} points too many` : `${most - given} of ${most} points left`;
      says.classList.toggle('hot', given > most);
      return;
    }
    const n = by === 'ranked' ? [...form.querySelectorAll('select')].filter(x => x.value).length
      : form.querySelectorAll('input[name=named]:checked').length;
    const over = most > 0 && n > most;
    says.textContent = over ? `${n} chosen, ${n - most} too many` : most > 0 ? `${n} of ${most} chosen` : `${n} chosen`;
    says.classList.toggle('hot', over);
  };
  form.addEventListener('input', look);
  look();
}
