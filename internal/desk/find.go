package desk

import (
	"context"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"

	"ulvant/core/access"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Person is somebody found: an account, or a referee, who has none.
type Person struct {
	Name, Email string
	What        string // what they are to us
	Ref, Title  string // of a case they have to do with; "" for none
}

// Found is what a few words led to.
type Found struct {
	Items  []Item
	People []Person
	Rounds []FoundRound
}

// FoundRound is a round whose name has the words.
type FoundRound struct {
	ID        int64
	Key, Name string
}

// Keep leaves what a sight shows: the cases and rounds it shows, and people to
// those alone who see all of the office. Rounds are told by their numbers.
func (f *Found) Keep(sight access.Sight, whole round.Only) {
	if sight.All {
		return
	}
	f.People = nil
	f.Items = slices.DeleteFunc(f.Items, func(it Item) bool {
		return !slices.Contains(whole, it.RoundID) && !sight.Shows(it.RoundID, it.Place, it.Bodies)
	})
	f.Rounds = slices.DeleteFunc(f.Rounds, func(r FoundRound) bool {
		return !slices.Contains(whole, r.ID) &&
			sight.Parts[r.ID] == nil
	})
}

// Empty reports that nothing was found.
func (f Found) Empty() bool { return len(f.Items)+len(f.People)+len(f.Rounds) == 0 }

// What is looked at of a text to find by.
const (
	mostWords   = 8
	mostLetters = 40 // of a word
)

var refBegins = regexp.MustCompile(`^[A-Z]{1,8}-[0-9A-Z-]{0,12}$`)

// prefixes makes a query in which every word may be the beginning of one; ""
// when there is no word in it.
func prefixes(text string) string {
	words := strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) })
	words = words[:min(len(words), mostWords)]
	for i, w := range words {
		long := []rune(w)
		words[i] = string(long[:min(len(long), mostLetters)]) + ":*"
	}
	return strings.Join(words, " & ")
}

// worthSorting is how many that have a word are gathered and put in order.
const worthSorting = `2000`

// FindSQL finds applications by the beginning of their number and by words of
// their title, lead, lead's address and place; a number that fits comes first.
// What fits is gathered by index before it is put in order: ordered by the key,
// PostgreSQL would walk the key and look at every row. A word that more have than
// are worth sorting is looked for from the latest on instead, where it is met soon.
// The EXPLAIN test reads it.
const FindSQL = `WITH numbered AS MATERIALIZED (
	  SELECT s.entry_id FROM (SELECT id FROM application WHERE $1 <> '' AND ref ~>=~ $1 AND ref ~<~ ($1 || 'ÿ') ORDER BY ref USING ~<~ LIMIT $3) n JOIN standing s ON s.application_id = n.id WHERE $4::bigint[] IS NULL OR s.round_id = ANY($4)),
	worded AS MATERIALIZED (SELECT s.entry_id FROM standing s WHERE s.words @@ to_tsquery('simple', $2) AND ($4::bigint[] IS NULL OR s.round_id = ANY($4)) LIMIT 1 + ` + worthSorting + `),
	common AS MATERIALIZED (SELECT count(*) > ` + worthSorting + ` AS yes FROM worded),
	hit AS MATERIALIZED (SELECT entry_id FROM numbered
	  UNION (SELECT entry_id FROM worded WHERE NOT (SELECT yes FROM common) ORDER BY entry_id DESC LIMIT $3)
	  UNION (SELECT entry_id FROM standing s WHERE (SELECT yes FROM common) AND s.words @@ to_tsquery('simple', $2) AND ($4::bigint[] IS NULL OR s.round_id = ANY($4)) ORDER BY entry_id DESC LIMIT $3))
	SELECT ` + itemColumns + itemFrom + `
	WHERE st.latest AND st.entry_id IN (SELECT entry_id FROM hit)
	ORDER BY ($1 <> '' AND starts_with(a.ref, $1)) DESC, a.id DESC LIMIT $3`

// FindPeopleSQL finds people by the beginnings of words of their names and addresses.
const FindPeopleSQL = `WITH worded AS MATERIALIZED (SELECT id FROM account WHERE words @@ to_tsquery('simple', $1) LIMIT 1 + ` + worthSorting + `),
	common AS MATERIALIZED (SELECT count(*) > ` + worthSorting + ` AS yes FROM worded),
	accounts AS MATERIALIZED (SELECT id FROM worded WHERE NOT (SELECT yes FROM common)
	  UNION ALL (SELECT id FROM account WHERE (SELECT yes FROM common) AND words @@ to_tsquery('simple', $1) ORDER BY id DESC LIMIT $2 * 2)),
	referees AS MATERIALIZED (SELECT id FROM referee WHERE words @@ to_tsquery('simple', $1))
	(SELECT p.name, p.email, CASE WHEN EXISTS (SELECT FROM account_role w WHERE w.account_id = p.id AND w.ended_at IS NULL) THEN 'works at the office' ELSE 'has an account' END AS what, '' AS ref, '' AS title
	 FROM account p WHERE p.left_at IS NULL AND p.id IN (SELECT id FROM accounts ORDER BY id DESC LIMIT $2 * 2) ORDER BY p.id DESC LIMIT $2)
	UNION ALL
	(SELECT f.name, f.email, 'vouches for' AS what, a.ref, a.title
	 FROM referee f JOIN application a ON a.id = f.application_id WHERE f.id IN (SELECT id FROM referees ORDER BY id DESC LIMIT $2) ORDER BY f.id DESC)`

// Find anything anywhere by a number or its beginning, or by the beginnings of
// words, in some rounds or (nil) in all. A text without letters and figures finds
// nothing.
func (d *Desk) Find(ctx context.Context, only round.Only, text string, most int) (f Found, err error) {
	words := prefixes(text)
	if words == "" {
		return f, nil
	}
	ref, ok := identifier.ParseRef(text)
	if !ok {
		ref = ""
		if up := strings.ToUpper(strings.TrimSpace(text)); refBegins.MatchString(up) {
			ref = up
		}
	}
	if err := d.DB.SelectContext(ctx, &f.Items, FindSQL, ref, words, most, only); err != nil {
		return f, err
	}
	err = d.DB.SelectContext(ctx, &f.People, FindPeopleSQL, words, most)
	if err != nil {
		return f, err
	}
	err = d.DB.SelectContext(ctx, &f.Rounds,
		`SELECT id, key, name FROM round WHERE to_tsvector('simple', name) @@ to_tsquery('simple', $1) AND ($3::bigint[] IS NULL OR id = ANY($3)) ORDER BY closes_at DESC LIMIT $2`, words, most, only)
	return f, err
}

// CarerOf is who of the office looks after a case that is listed under a place of
// its round, on a day: see carerOf. "" for nobody.
func (d *Desk) CarerOf(ctx context.Context, application, round int64, place string, day time.Time) (name string,
	err error) {
	err = d.DB.GetContext(ctx, &name, `
		SELECT COALESCE((SELECT k.name FROM account k WHERE k.id = `+carerOf+`), '')
		FROM (SELECT @application::bigint AS application_id, @round::bigint AS round_id, @place::text AS place) st`,
		db.Named{"application": application, "round": round, "place": place, "today": day.Format("2006-01-02")})
	return name, err
}

// Places counts a round's applications by the place or field they are listed
// under, with who looks after them.
type Places struct {
	Place     string
	N         int
	AccountID int64 `db:"account_id"` // 0 for nobody
}

// PlacesOf lists them, those without a place last.
func (d *Desk) PlacesOf(ctx context.Context, round int64) (out []Places, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT x.place, x.n, COALESCE(w.account_id, 0) AS account_id FROM (
		  SELECT place, count(*) AS n FROM standing WHERE round_id = $1 AND latest AND state <> ALL($2) GROUP BY place
		  UNION SELECT '', 0 WHERE NOT EXISTS (SELECT FROM standing WHERE round_id = $1 AND latest AND place = '' AND state <> ALL($2))) x
		LEFT JOIN care w ON w.round_id = $1 AND w.place = x.place ORDER BY x.place = '', x.place`, round, lifecycle.With(lifecycle.Gone))
	return out, err
}
