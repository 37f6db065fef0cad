// Counts the seconds down until somebody's turn, then goes on.
'use strict';
const mark = document.querySelector('[data-wait]');
const end = Date.now() + Number(mark.dataset.wait) * 1000;
const timer = setInterval(() => {
  const left = Math.ceil((end - Date.now()) / 1000);
  if (left > 0) { mark.textContent = left === 1 ? '1 second' : `${left} seconds`; return; }
  clearInterval(timer);
  mark.closest('main').querySelector('form').submit();
}, 250);
