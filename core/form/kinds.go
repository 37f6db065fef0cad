package form

import (
	"math"
	"strconv"
	"strings"

	"ulvant/core/address"
	"ulvant/core/budget"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/slot"
	"ulvant/core/wordcount"
)

// kindRule is all that the core knows of one kind of question. Adding a kind
// is one row here and one template; docs/kinds.md says which.
type kindRule struct {
	typ        condition.Type
	comparable bool // conditions may read it
	// read brings a plain answer to a value; nil for kinds that are not plain.
	read func(f *Form, q *Question, raw string) (condition.Value, bool)
	// check adds obstacles beyond "blank" and "unreadable"; it may be nil.
	check func(w *walk, q *question, s *QuestionState)
	// empty says whether nothing was given, for kinds that are not plain.
	empty func(w *walk, q *Question) bool
}

var kinds = map[Kind]kindRule{
	Short:       {typ: condition.TypeText, comparable: true, read: readText, check: checkText},
	Long:        {typ: condition.TypeText, read: readText, check: checkText},
	Choice:      {typ: condition.TypeText, comparable: true, read: readChoice},
	YesNo:       {typ: condition.TypeYes, comparable: true, read: readYesNo},
	Number:      {typ: condition.TypeNumber, comparable: true, read: readNumber, check: checkRange},
	Money:       {typ: condition.TypeNumber, comparable: true, read: readMoney, check: checkRange},
	Date:        {typ: condition.TypeDate, comparable: true, read: readDate, check: checkDate},
	Address:     {check: checkAddress, empty: emptyTable},
	Budget:      {check: checkBudget, empty: emptyTable},
	File:        {check: checkFile, empty: func(*walk, *Question) bool { return false }},
	Referee:     {check: checkReferee, empty: func(*walk, *Question) bool { return false }},
	Declaration: {typ: condition.TypeYes, comparable: true, read: readYesNo, check: checkAgreed},
	Signature:   {typ: condition.TypeText, read: readText, check: checkName},
}

func readText(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	return condition.Value{Text: strings.TrimSpace(raw)}, true
}

func readChoice(_ *Form, q *Question, raw string) (condition.Value, bool) {
	for _, o := range q.Options {
		if string(o.Key) == raw {
			return condition.Value{Text: raw}, true
		}
	}
	return condition.Value{}, false
}

func readYesNo(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	yes := raw == "yes"
	return condition.Value{Yes: &yes}, yes || raw == "no"
}

func readNumber(_ *Form, q *Question, raw string) (condition.Value, bool) {
	s := strings.ReplaceAll(strings.TrimSpace(raw), ",", ".")
	whole, part, _ := strings.Cut(s, ".")
	if len(part) > q.Scale || len(whole) > 12 || strings.ContainsAny(part, "+-") {
		return condition.Value{}, false
	}
	n, err := strconv.ParseInt(whole+part+strings.Repeat("0", q.Scale-len(part)), 10, 64)
	if err != nil || whole == "" {
		return condition.Value{}, false
	}
	return condition.Value{Number: &condition.Number{Num: n, Den: int64(math.Pow10(q.Scale))}}, true
}

func readMoney(f *Form, _ *Question, raw string) (condition.Value, bool) {
	n, ok := money.Parse(raw, f.Design.Currency)
	return condition.Value{Number: &condition.Number{Num: n, Den: 1}}, ok
}

func readDate(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	d, ok := calendar.ParseDate(strings.TrimSpace(raw))
	return condition.Value{Date: d}, ok
}

func checkText(w *walk, _ *question, s *QuestionState) {
	s.Words = wordcount.Words(s.Raw)
	if l := s.Limits.Words; l > 0 && s.Words > l {
		w.obstacle(s, Obstacle{Code: CodeTooLong, Have: int64(s.Words), Limit: int64(l)})
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

func checkDate(w *walk, _ *question, s *QuestionState) {
	if d := w.form.Day(s.Limits.NotBefore); !d.IsZero() && s.Value.Date < d {
		w.obstacle(s, Obstacle{Code: CodeTooEarly, Have: int64(d - s.Value.Date), Day: d})
	}
	if d := w.form.Day(s.Limits.NotAfter); !d.IsZero() && s.Value.Date > d {
		w.obstacle(s, Obstacle{Code: CodeTooLate, Have: int64(s.Value.Date - d), Day: d})
	}
}

// AddressColumns are the parts of an address; all but the second line are needed.
var AddressColumns = []Option{{"street", "Street and number, or the name of the site"}, {"more", "More of it (may be left)"},
	{"town", "Town or village"}, {"postcode", "Postcode"}}

func checkAddress(w *walk, q *question, s *QuestionState) {
	for _, col := range AddressColumns {
		a := w.filled.Answers[Place{Question: q.def.Key, Column: col.Key}]
		at := Obstacle{Place: Place{Question: q.def.Key, Column: col.Key}, Name: col.Label}
		if a.Empty() {
			if col.Key != "more" {
				at.Code = CodeAddressPart
				w.obstacle(s, at)
			}
		} else if address.IsBox(a.Raw) {
			at.Code, at.Name = CodeBoxNumber, strings.TrimSpace(a.Raw)
			w.obstacle(s, at)
		}
	}
}

func emptyTable(w *walk, q *Question) bool {
	for p, a := range w.filled.Answers {
		if p.Question == q.Key && !a.Empty() {
			return false
		}
	}
	return true
}

// The columns of a budget table.
const (
	ColItem  Key = "item"
	ColCost  Key = "cost"
	ColUs    Key = "from-us"
	ColPayer Key = "payer"
)

// BudgetLines reads the lines of a budget; bad holds the rows that cannot be
// read. Rows with nothing in them are left out.
func (f *Form) BudgetLines(filled *Filled, q Key) (lines []budget.Line, rows []string, bad []string) {
	for _, row := range filled.Rows(q) {
		at := func(c Key) Answer { return filled.Answers[Place{q, row, c}] }
		if at(ColItem).Empty() && at(ColCost).Empty() && at(ColUs).Empty() {
			continue
		}
		cost, ok := money.Parse(at(ColCost).Raw, f.Design.Currency)
		us, okUs := money.Parse(at(ColUs).Raw, f.Design.Currency)
		okUs = okUs || at(ColUs).Empty()
		if !ok || !okUs || cost < 0 || us < 0 || at(ColItem).Empty() {
			bad = append(bad, row)
		}
		payer := budget.Payer(at(ColPayer).Raw)
		lines = append(lines, budget.Line{Item: strings.TrimSpace(at(ColItem).Raw), Cost: cost, FromUs: us, Payer: payer})
		rows = append(rows, row)
	}
	return lines, rows, bad
}

func checkBudget(w *walk, q *question, s *QuestionState) {
	lines, rows, bad := w.form.BudgetLines(w.filled, q.def.Key)
	for _, row := range bad {
		w.obstacle(s, Obstacle{Code: CodeBudgetLine, Place: Place{Question: q.def.Key, Row: row},
			Name: strings.TrimSpace(w.filled.Answers[Place{q.def.Key, row, ColItem}].Raw)})
	}
	if len(bad) > 0 {
		return
	}
	for i, l := range lines {
		at := Place{Question: q.def.Key, Row: rows[i]}
		if l.FromUs > l.Cost {
			w.obstacle(s, Obstacle{Code: CodeBudgetOver, Place: at, Name: l.Item, Have: l.FromUs, Limit: l.Cost})
		} else if l.Match() > 0 && l.Payer == "" {
			w.obstacle(s, Obstacle{Code: CodeBudgetPayer, Place: at, Name: l.Item, Have: l.Match()})
		}
	}
	totals, ok := budget.Sum(lines)
	if !ok || len(lines) == 0 {
		w.obstacle(s, Obstacle{Code: CodeBudgetEmpty})
		return
	}
	s.Totals = &totals
	request := w.path.Questions[w.form.index[q.def.Request]]
	if request.Presence == condition.Given && request.Value.Number.Num != totals.FromUs {
		w.obstacle(s, Obstacle{Code: CodeBudgetRequest, Have: totals.FromUs, Limit: request.Value.Number.Num})
	}
	if least := budget.LeastMatch(totals.Cost, s.Limits.MatchPercent); totals.Match < least {
		w.obstacle(s, Obstacle{Code: CodeBudgetMatch, Have: totals.Match, Limit: least, Name: strconv.FormatInt(s.Limits.MatchPercent, 10)})
	}
}

func checkFile(w *walk, q *question, s *QuestionState) {
	files := w.filled.Files[q.def.Key]
	if len(files) == 0 {
		if s.Must != condition.No {
			w.obstacle(s, Obstacle{Code: CodeFileMissing})
		}
		return
	}
	s.Presence = condition.Given
	limits := slot.Limits{}
	if s.Limits.Slot != nil {
		limits = *s.Limits.Slot
	}
	for _, f := range files {
		switch fault := slot.Check(f, limits); fault {
		case "":
		case slot.TooMany:
			w.obstacle(s, Obstacle{Code: CodeFile, Name: f.Name, Detail: string(fault), Have: int64(f.Pages), Limit: int64(limits.PagesMost)})
		default:
			w.obstacle(s, Obstacle{Code: CodeFile, Name: f.Name, Detail: string(fault), Have: f.Size, Limit: limits.SizeMost})
		}
	}
}

func checkReferee(w *walk, q *question, s *QuestionState) {
	standing := 0
	for _, r := range w.filled.Referees[q.def.Key] {
		if r.Letter == Replaced {
			continue
		}
		o := Obstacle{Name: r.Name, Day: r.Since, Move: lifecycle.Third}
		standing++
		switch r.Letter {
		case ToAsk:
			o.Code, o.Move = CodeRefereeToAsk, lifecycle.Applicant
		case Asked:
			o.Code = CodeRefereeAsked
		case Accepted:
			o.Code = CodeRefereeWriting
		case Declined:
			o.Code, o.Move = CodeRefereeNo, lifecycle.Applicant
		case Uploaded:
			o.Code = CodeLetterNotSent
		default:
			continue
		}
		w.obstacle(s, o)
	}
	if standing > 0 {
		s.Presence = condition.Given
	}
	if missing := s.Limits.Referees - standing; missing > 0 && s.Must != condition.No {
		w.obstacle(s, Obstacle{Code: CodeRefereeMissing, Have: int64(standing), Limit: int64(s.Limits.Referees)})
	}
}

func checkAgreed(w *walk, _ *question, s *QuestionState) {
	if s.Must != condition.No && !*s.Value.Yes {
		w.obstacle(s, Obstacle{Code: CodeNotAgreed})
	}
}

func checkName(w *walk, _ *question, s *QuestionState) {
	fold := func(n string) string { return strings.ToLower(strings.Join(strings.Fields(n), " ")) }
	if fold(s.Raw) != fold(w.filled.Lead) {
		w.obstacle(s, Obstacle{Code: CodeNameDiffers, Name: w.filled.Lead})
	}
}
