// Words as core/wordcount counts them: runs of non-blanks holding a letter or
// number, and every letter of a script that is written without blanks.
'use strict'
;(() => {
  const joined = /[\u00ad\u200b\u2060\ufeff]/g
  const unparted = /(?=\p{L})[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Thai}\p{sc=Laoo}\p{sc=Khmr}\p{sc=Mymr}]/u
  const space = /[\t\n\v\f\r \u0085\u00a0\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000]/u
  const counts = /[\p{L}\p{N}]/u
  globalThis.ulvantWords = s => {
    let n = 0, counted = false
    for (const c of s.replace(joined, '')) {
      if (space.test(c)) counted = false
      else if (unparted.test(c)) { n++; counted = false } else if (!counted && counts.test(c)) { n++; counted = true }
    }
    return n
  }
})()
