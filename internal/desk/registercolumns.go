package desk

import "ulvant/core/register"

// carerOf is who looks after a case: by hand, or by its place or field, or all
// that have no other; and whoever has agreed to stand in where they are away
// today. 0 for nobody.
const carerOf = `COALESCE((SELECT COALESCE((SELECT w.cover_id FROM away w WHERE w.account_id = h.account_id AND w.ended_at IS NULL AND w.agreed_at IS NOT NULL AND @today::date BETWEEN w.from_day AND w.to_day LIMIT 1), h.account_id)
	FROM (SELECT account_id, 0 AS rank FROM hand WHERE application_id = st.application_id
	      UNION ALL SELECT w.account_id, CASE WHEN w.place = '' THEN 2 ELSE 1 END FROM care w WHERE w.round_id = st.round_id AND w.place IN (st.place, '')) h ORDER BY h.rank LIMIT 1), 0)`

// lastDecision is what the panel decided of an entry last.
const lastDecision = `(SELECT left_of(d.act_id, d.entry_id, d.amount) FROM decision d WHERE d.entry_id = st.entry_id AND d.outcome = ANY(@gives) ORDER BY d.act_id DESC LIMIT 1)`

// meanScore is the mean of the weighted marks that readers sent, on the scale of
// the steps; weights are the round's, by criterion.
const meanScore = `(SELECT round(avg(x.score), 2) FROM (
	SELECT sum(m.value * (@weights::jsonb ->> m.criterion)::numeric) / NULLIF(sum((@weights::jsonb ->> m.criterion)::numeric), 0) AS score
	FROM assignment g JOIN mark m ON m.entry_id = g.entry_id AND m.account_id = g.account_id
	WHERE g.entry_id = st.entry_id AND g.sent_at IS NOT NULL GROUP BY g.account_id) x)`

// columnSQL is what each column of every case is read from. st is its standing, a
// the application, p the account of its lead, r its round.
var columnSQL = map[string]string{
	register.KeyLead:     `p.name`,
	register.KeyMail:     `p.email`,
	register.KeyTitle:    `a.title`,
	register.KeyState:    `st.state`,
	register.KeyMove:     `st.move`,
	register.KeyPlace:    `NULLIF(st.place, '')`,
	register.KeyStage:    `st.stage`,
	register.KeyDone:     `CASE WHEN st.required > 0 THEN round(st.done * 100.0 / st.required) END`,
	register.KeyLacks:    `NULLIF(st.obstacles, '{}')`,
	register.KeyLetter:   `NULLIF(st.letter, '')`,
	register.KeyCarer:    `NULLIF(` + carerOf + `, 0)::text`,
	register.KeyLabels:   `(SELECT array_agg(x.name ORDER BY x.name) FROM label x WHERE x.application_id = st.application_id)`,
	register.KeyNotes:    `(SELECT NULLIF(count(*), 0) FROM note x WHERE x.application_id = st.application_id AND x.ended_at IS NULL)`,
	register.KeyRound:    `r.key`,
	register.KeyBegun:    `a.created_at`,
	register.KeyChanged:  `st.changed_at`,
	register.KeySent:     `st.sent_at`,
	register.KeyUntil:    `st.valid_until`,
	register.KeyNudged:   `(SELECT max(x.at) FROM nudge x WHERE x.entry_id = st.entry_id)`,
	register.KeyVerdict:  `CASE WHEN st.state = ANY(@sealed) THEN (SELECT CASE WHEN bool_or(COALESCE(x.settled, x.outcome) = 'no') THEN 'no' WHEN bool_or(COALESCE(x.settled, x.outcome) = 'person') THEN 'person' WHEN count(*) > 0 THEN 'yes' END FROM finding x WHERE x.entry_id = st.entry_id) END`,
	register.KeyToSettle: `(SELECT NULLIF(count(*), 0) FROM finding x WHERE x.entry_id = st.entry_id AND x.outcome = 'person' AND x.settled IS NULL)`,
	register.KeyQuery:    `(SELECT CASE WHEN x.ended = '' THEN 'open' ELSE x.ended END FROM query x WHERE x.entry_id = st.entry_id ORDER BY x.id DESC LIMIT 1)`,
	register.KeyReaders:  `(SELECT NULLIF(count(*), 0) FROM assignment x WHERE x.entry_id = st.entry_id)`,
	register.KeyMarks:    `(SELECT NULLIF(count(*), 0) FROM assignment x WHERE x.entry_id = st.entry_id AND x.sent_at IS NOT NULL)`,
	register.KeyScore:    meanScore,
	register.KeyAsked:    `st.asked`,
	register.KeyGiven:    lastDecision,
	register.KeyCharged:  `(SELECT x.total FROM charge x WHERE x.entry_id = st.entry_id)`,
	register.KeyPaid:     `(SELECT NULLIF(sum(x.amount), 0) FROM payment x WHERE x.entry_id = st.entry_id)`,
}

// factSQL is what an answer is read from; k is what is known of the entry. The
// name of the fact is an argument of the statement.
func factSQL(name string) string { return `k.facts -> @` + name }
