package rounds

import (
	"context"
	"errors"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/pattern"
	"ulvant/core/phrase"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// designForm is the page on which a round is made, as typed.
type designForm struct {
	Typed    map[string]string
	Faults   []string
	Zones    []string
	Patterns []pattern.Pattern
	Kind     string // of the pattern
	Earlier  []round.Round
}

var zones = []string{"Europe/Dublin", "Europe/Lisbon", "Europe/London", "Europe/Paris", "Europe/Athens",
	"America/St_Johns", "America/New_York", "Australia/Lord_Howe", "Pacific/Auckland", "UTC"}

func typedFrom(s pattern.Settings) map[string]string {
	return map[string]string{"name": s.Name, "programme": s.Programme, "prefix": s.Prefix, "about": s.About,
		"contact": s.Contact, "zone": s.Zone, "currency": s.Currency,
		"fund": money.Plain(s.Fund, s.Currency), "least": money.Plain(s.Least, s.Currency), "most": money.Plain(s.Most,
			s.Currency),
		"match": strconv.FormatInt(s.MatchPercent,
			10), "readers": strconv.Itoa(s.ReadersEach), "hold": strconv.Itoa(s.HoldMinutes),
		"opens": s.Opens.String(), "closes": s.Closes.String(), "checks-by": s.ChecksBy.String(),
		"reading-ends": s.ReadingEnds.String(),
		"answer-on":    s.AnswerOn.String(), "work-from": s.WorkFrom.String()}
}

// defaults of a new round: opening in two weeks, on working days.
func defaults(now time.Time, contact string, off func(calendar.Date) bool) pattern.Settings {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		zone = time.UTC
	}
	today := calendar.DateOf(now, zone)
	on := func(days, hour int) calendar.Wall {
		return calendar.At(calendar.AddWorkingDays(today.AddDays(days-1), 1, off), hour, 0)
	}
	return pattern.Settings{Contact: contact, Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 3, HoldMinutes: 30,
		Opens: on(14, 9), Closes: on(56, 16), ChecksBy: on(66, 17), ReadingEnds: on(87, 17), AnswerOn: on(101,
			12), WorkFrom: today.AddDays(120)}
}

var notKey = regexp.MustCompile(`[^a-z0-9]+`)

func keyOf(name string) form.Key {
	return form.Key(strings.Trim(notKey.ReplaceAllString(strings.ToLower(name), "-"), "-"))
}

// settingsFrom reads the page; faults are sentences.
func settingsFrom(r *site.Request) (s pattern.Settings, typed map[string]string, faults []string) {
	typed = map[string]string{}
	for k := range typedFrom(pattern.Settings{Currency: "EUR"}) {
		typed[k] = strings.TrimSpace(r.FormValue(k))
	}
	bad := func(says string) { faults = append(faults, says) }
	s = pattern.Settings{Name: typed["name"], Programme: typed["programme"], Prefix: strings.ToUpper(typed["prefix"]),
		About: typed["about"], Contact: typed["contact"],
		Zone: typed["zone"], Currency: typed["currency"]}
	s.Key = keyOf(s.Name)
	if len(s.Name) < 4 || len(s.Name) > 120 || s.Key == "" {
		bad("Give the round a name of 4 to 120 characters.")
	}
	if !money.Known(s.Currency) {
		bad("“" + s.Currency + "” is not a currency; use a code such as EUR.")
		s.Currency = "EUR"
	}
	for name, to := range map[string]*int64{"fund": &s.Fund, "least": &s.Least, "most": &s.Most} {
		n, ok := money.Parse(typed[name], s.Currency)
		if !ok || n < 0 {
			bad("“" + typed[name] + "” is not a sum; write it as 200,000.")
		}
		*to = n
	}
	if s.Least > s.Most {
		bad("The least that can be asked is more than the most.")
	}
	whole := func(name string, least, most int, what string) int {
		n, err := strconv.Atoi(typed[name])
		if err != nil || n < least || n > most {
			bad(what + " is a whole number from " + strconv.Itoa(least) + " to " + strconv.Itoa(most) + ".")
		}
		return n
	}
	s.MatchPercent = int64(whole("match", 0, 100, "The share that others pay, in percent,"))
	s.ReadersEach = whole("readers", 1, 20, "The number of readers for each application")
	s.HoldMinutes = whole("hold", 0, 10080, "The time letters wait, in minutes,")
	for name, to := range map[string]*calendar.Wall{"opens": &s.Opens, "closes": &s.Closes, "checks-by": &s.ChecksBy,
		"reading-ends": &s.ReadingEnds, "answer-on": &s.AnswerOn} {
		if to.UnmarshalText([]byte(typed[name])) != nil || to.IsZero() {
			bad("“" + typed[name] + "” is not a date and time.")
		}
	}
	if s.WorkFrom.UnmarshalText([]byte(typed["work-from"])) != nil || s.WorkFrom.IsZero() {
		bad("“" + typed["work-from"] + "” is not a date.")
	}
	return s, typed, faults
}

// faultsOf writes a compiler's faults as sentences; an error that holds none is
// told as any other.
func faultsOf(err error) []string {
	var out []string
	for _, f := range form.Faults(err) {
		out = append(out, f.Sentence())
	}
	if out == nil {
		return []string{site.Sentence(err)}
	}
	return out
}

// NewRound shows the fields of the pattern for grants.
func NewRound(r *site.Request) error {
	typed := typedFrom(defaults(r.At, r.Funder.Mail(r.Config.MailFrom), r.Funder.Off))
	return drawNew(r, fiber.StatusOK, designForm{Typed: typed})
}

func drawNew(r *site.Request, status int, d designForm) error {
	d.Zones, d.Patterns = zones, pattern.All()
	if d.Kind == "" {
		d.Kind = r.FormValue("kind", d.Patterns[0].Key)
	}
	var err error
	if d.Earlier, err = r.Rounds.All(r.Context); err != nil {
		return err
	}
	return r.Draw(status, "office/rounds/design", view.Page{Title: "A new round", Nav: "rounds", Data: d})
}

// MakeRound makes a round from the pattern.
func MakeRound(r *site.Request) error {
	s, typed, faults := settingsFrom(r)
	if len(faults) > 0 {
		return drawNew(r, fiber.StatusUnprocessableEntity, designForm{Typed: typed, Faults: faults})
	}
	d, moved, err := startingPoint(r, s)
	if err != nil {
		return err
	}
	if _, err := form.Compile(d); err != nil {
		return drawNew(r, fiber.StatusUnprocessableEntity, designForm{Typed: typed, Faults: faultsOf(err)})
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { _, err := r.Rounds.Create(ctx, tx, d); return err })
	if errors.Is(err, round.ErrTaken) {
		return drawNew(r, fiber.StatusUnprocessableEntity, designForm{Typed: typed,
			Faults: []string{"Another round has this name already; give it a name of its own."}})
	}
	if err != nil {
		return err
	}
	r.Tell("The round is made. Look it over, change what you like, then open it." + movedWords(moved))
	return r.See("/office/rounds/" + string(d.Key) + "/design")
}

// startingPoint is the design a new round begins with: a pattern's, or an
// earlier round's, with what was set on the page.
// Of a copy every other date is moved with the closing; moved says which.
func startingPoint(r *site.Request, s pattern.Settings) (d *form.Design, moved []pattern.Moved, err error) {
	key, earlier := strings.CutPrefix(r.FormValue("kind"), "round:")
	if !earlier {
		return pattern.Find(key).Make(s), nil, nil
	}
	rd, err := r.Rounds.Find(r.Context, r.DB, key)
	if err != nil {
		return nil, nil, err
	}
	if d, err = round.Decode(rd.Working); err != nil {
		return nil, nil, err
	}
	moved = pattern.Shift(d, s.Closes.Date, r.Funder.Off)
	s.Apply(d)
	return d, moved, nil
}

// movedWords names the dates that were moved and not set on the page.
func movedWords(moved []pattern.Moved) string {
	const most = 8
	set := []string{"the opening", "the closing", "the end of checks", "the end of reading", "the answer",
		"the start of the work"}
	var words []string
	for _, m := range moved {
		if name := strings.Trim(m.What, "“”"); !slices.Contains(set, name) {
			words = append(words, m.What+" to "+m.To.Words())
		}
	}
	if len(words) == 0 {
		return ""
	}
	if more := len(words) - most; more > 0 {
		words = append(words[:most], phrase.Count(int64(more), "other date", "other dates"))
	}
	return " These dates were moved with the closing; check them: " + phrase.List(words) + "."
}
