package form

import (
	"net/mail"
	"net/url"
	"slices"
	"strings"

	"github.com/nyaruka/phonenumbers"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/identifier"
	"ulvant/core/money"
	"ulvant/core/wordcount"
)

// Plain kinds: one text typed, one value read.
var _ = register(map[Kind]*kindRule{
	Short: {means: "Short text: a line", typ: condition.TypeText, comparable: true, read: readText, check: checkText,
		members: []string{"profile"}, limits: []string{"words", "characters"}},
	Long: {means: "Long text: paragraphs", typ: condition.TypeText, read: readText, check: checkText,
		members: []string{"media"}, limits: []string{"words", "leastWords", "characters", "slot"}},
	YesNo: {means: "Yes or no", typ: condition.TypeYes, comparable: true, read: readYesNo, members: []string{"profile"}},
	Number: {means: "Number", typ: condition.TypeNumber, comparable: true, read: readNumber, check: checkRange,
		members: []string{"scale", "unit"}, limits: []string{"least", "most"}},
	Percent: {means: "Percentage", typ: condition.TypeNumber, comparable: true, read: readPercent, check: checkPercent,
		members: []string{"scale"}, limits: []string{"least", "most"}},
	Money: {means: "Sum of money", typ: condition.TypeNumber, comparable: true, read: readMoney, check: checkRange,
		limits: []string{"least", "most"}},
	Date: {means: "Date", typ: condition.TypeDate, comparable: true, read: readDate, check: checkDate,
		members: []string{"profile"},
		limits:  []string{"notBefore", "notAfter", "monthsOld"}},
	Phone: {means: "Phone number, kept in one form", typ: condition.TypeText, comparable: true, read: readPhone,
		members: []string{"region", "profile"}, compile: func(c *compiler, q *Question) {
			c.need(q.Region == "" || phonenumbers.GetCountryCodeForRegion(q.Region) != 0, "%q is not a country (ISO 3166, two letters)", q.Region)
		}},
	Mail: {means: "Mail address", typ: condition.TypeText, read: readMail, members: []string{"profile"}},
	Link: {means: "Web address", typ: condition.TypeText, read: readLink},
	Identifier: {means: "Registered number, with its check digits", typ: condition.TypeText, comparable: true, read: readIdentifier,
		members: []string{"scheme", "profile"}, compile: func(c *compiler, q *Question) {
			_, ok := identifier.Find(q.Scheme)
			c.need(ok, "say which number it is")
		}},
	Declaration: {means: "Statement to agree to; optional when a blank means no", typ: condition.TypeYes, comparable: true, read: readAgreed, check: checkAgreed,
		members: []string{"initials"}},
	Signer:    {means: "Who signs the agreement, of those authorised", typ: condition.TypeText, read: readText, check: checkAuthorised},
	Signature: {means: "Typed name, as it stands on file", typ: condition.TypeText, read: readText, check: checkName},
})

func readText(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	return condition.Value{Text: strings.TrimSpace(raw)}, true
}

func readYesNo(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	yes := raw == "yes"
	return condition.Value{Yes: &yes}, yes || raw == "no"
}

// readAgreed reads a statement: where it takes initials, whatever is typed
// agrees to it, and checkAgreed looks whose initials they are.
func readAgreed(f *Form, q *Question, raw string) (condition.Value, bool) {
	if !q.Initials {
		return readYesNo(f, q, raw)
	}
	yes := true
	return condition.Value{Yes: &yes}, true
}

// readNumber reads at most Scale decimals, and scales to them.
func readNumber(_ *Form, q *Question, raw string) (condition.Value, bool) {
	n, ok := decimal.Parse(raw)
	if !ok {
		return condition.Value{}, false
	}
	den := int64(1)
	for range q.Scale {
		den *= 10
	}
	if n.Den > den || n.Num > 1e13 || n.Num < -1e13 {
		return condition.Value{}, false
	}
	return condition.Value{Number: &condition.Number{Num: n.Num * (den / n.Den), Den: den}}, true
}

// readPercent reads 12.5 or 12.5 % as the share 125/1000.
func readPercent(f *Form, q *Question, raw string) (condition.Value, bool) {
	v, ok := readNumber(f, q, strings.TrimSuffix(strings.TrimSpace(raw), "%"))
	if ok {
		v.Number.Den *= 100
	}
	return v, ok
}

func readMoney(f *Form, _ *Question, raw string) (condition.Value, bool) {
	n, ok := money.Parse(raw, f.Design.Currency)
	return condition.Value{Number: &condition.Number{Num: n, Den: 1}}, ok
}

func readDate(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	d, ok := calendar.ParseDate(strings.TrimSpace(raw))
	return condition.Value{Date: d}, ok
}

// readPhone brings a number to its form in E.164; Region is the country of
// those typed without one (numbering plans from github.com/nyaruka/phonenumbers).
func readPhone(_ *Form, q *Question, raw string) (condition.Value, bool) {
	region := q.Region
	if region == "" {
		region = "IE"
	}
	n, err := phonenumbers.Parse(raw, region)
	if err != nil || !phonenumbers.IsPossibleNumber(n) {
		return condition.Value{}, false
	}
	return condition.Value{Text: phonenumbers.Format(n, phonenumbers.E164)}, true
}

func readMail(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	raw = strings.TrimSpace(raw)
	a, err := mail.ParseAddress(raw)
	ok := err == nil && a.Address == raw && len(raw) <= 200 && strings.Contains(raw[strings.LastIndexByte(raw, '@'):], ".")
	return condition.Value{Text: strings.ToLower(raw)}, ok
}

func readLink(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	raw = strings.TrimSpace(raw)
	if !strings.Contains(raw, "://") {
		raw = "https://" + raw
	}
	u, err := url.Parse(raw)
	ok := err == nil && (u.Scheme == "https" || u.Scheme == "http") && strings.Contains(strings.Trim(u.Hostname(), "."), ".") && !strings.ContainsAny(raw, " \n")
	return condition.Value{Text: raw}, ok
}

func readIdentifier(_ *Form, q *Question, raw string) (condition.Value, bool) {
	s, ok := identifier.Find(q.Scheme)
	if !ok {
		return condition.Value{}, false
	}
	n, ok := s.Normal(raw)
	return condition.Value{Text: n}, ok
}

func checkText(w *walk, _ *question, s *QuestionState) {
	s.Words = wordcount.Words(s.Raw)
	if l := s.Limits.Words; l > 0 && s.Words > l {
		w.obstacle(s, Obstacle{Code: CodeTooLong, Have: int64(s.Words), Limit: int64(l)})
	}
	if l := s.Limits.LeastWords; s.Words < l {
		w.obstacle(s, Obstacle{Code: CodeTooShort, Have: int64(s.Words), Limit: int64(l)})
	}
	if n, l := wordcount.Characters(s.Raw), s.Limits.Characters; l > 0 && n > l {
		w.obstacle(s, Obstacle{Code: CodeTooManyChars, Have: int64(n), Limit: int64(l)})
	}
}

func checkRange(w *walk, _ *question, s *QuestionState) {
	n := s.Value.Number.Num
	if l := s.Limits.Least; l != nil && n < *l {
		w.obstacle(s, Obstacle{Code: CodeTooLittle, Have: n, Limit: *l})
	}
	if l := s.Limits.Most; l != nil && n > *l {
		w.obstacle(s, Obstacle{Code: CodeTooMuch, Have: n, Limit: *l})
	}
}

func checkPercent(w *walk, q *question, s *QuestionState) {
	n := s.Value.Number.Num
	if n < 0 || s.Limits.Most == nil && n > s.Value.Number.Den {
		w.obstacle(s, Obstacle{Code: CodeTooMuch, Have: n, Limit: s.Value.Number.Den})
		return
	}
	checkRange(w, q, s)
}

func checkDate(w *walk, _ *question, s *QuestionState) {
	if d := w.form.Day(s.Limits.NotBefore); !d.IsZero() && s.Value.Date < d {
		w.obstacle(s, Obstacle{Code: CodeTooEarly, Have: int64(d - s.Value.Date), Day: d})
	}
	if d := w.form.Day(s.Limits.NotAfter); !d.IsZero() && s.Value.Date > d {
		w.obstacle(s, Obstacle{Code: CodeTooLate, Have: int64(s.Value.Date - d), Day: d})
	}
	// "not older than 6 months" is read backward from the closing, clamped to
	// the month's end: of 31 August it is 28 February or later.
	if n := s.Limits.MonthsOld; n > 0 {
		if oldest := w.form.closing().AddMonths(-n); s.Value.Date < oldest {
			w.obstacle(s, Obstacle{Code: CodeTooOld, Have: int64(oldest - s.Value.Date), Limit: int64(n), Day: oldest})
		}
	}
}

// closing is the day on which the round closes.
func (f *Form) closing() calendar.Date {
	m, _ := f.Design.Moment(Closes)
	return m.At.Date
}

// checkAgreed wants a tick, or the lead's initials.
func checkAgreed(w *walk, q *question, s *QuestionState) {
	switch {
	case q.def.Initials && !IsInitials(s.Raw, w.filled.Lead):
		w.obstacle(s, Obstacle{Code: CodeInitials, Name: w.filled.Lead, Detail: strings.TrimSpace(s.Raw)})
	case s.Must != condition.No && !*s.Value.Yes:
		w.obstacle(s, Obstacle{Code: CodeNotAgreed})
	}
}

func checkAuthorised(w *walk, _ *question, s *QuestionState) {
	if !slices.Contains(w.filled.Authorised(), s.Value.Text) {
		w.obstacle(s, Obstacle{Code: CodeNotAuthorised, Name: s.Value.Text})
	}
}

func checkName(w *walk, _ *question, s *QuestionState) {
	fold := func(n string) string { return strings.ToLower(strings.Join(strings.Fields(n), " ")) }
	if fold(s.Raw) != fold(w.filled.Lead) {
		w.obstacle(s, Obstacle{Code: CodeNameDiffers, Name: w.filled.Lead})
	}
}
