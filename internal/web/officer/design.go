package officer

import (
	"context"
	"encoding/json"
	"errors"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/pattern"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/round"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
)

// designForm is the page on which a round's fields are set, as typed.
type designForm struct {
	Round    *round.Round
	Typed    map[string]string
	Faults   []string
	Form     *form.Form
	Number   int
	Changed  bool
	Zones    []string
	Drafts   int
	Readable []string
}

var zones = []string{"Europe/Dublin", "Europe/Lisbon", "Europe/London", "Europe/Paris", "Europe/Athens", "America/St_Johns", "America/New_York", "Australia/Lord_Howe", "Pacific/Auckland", "UTC"}

var fields = []struct{ name, label string }{
	{"opens", "Opens"}, {"closes", "Closes"}, {"checks-by", "Checks done by"}, {"reading-ends", "Reading ends"}, {"answer-on", "Answer on"},
}

func typedFrom(s pattern.Settings) map[string]string {
	return map[string]string{"name": s.Name, "programme": s.Programme, "prefix": s.Prefix, "about": s.About, "contact": s.Contact, "zone": s.Zone, "currency": s.Currency,
		"fund": money.Plain(s.Fund, s.Currency), "least": money.Plain(s.Least, s.Currency), "most": money.Plain(s.Most, s.Currency),
		"match": strconv.FormatInt(s.MatchPercent, 10), "readers": strconv.Itoa(s.ReadersEach), "hold": strconv.Itoa(s.HoldMinutes),
		"opens": s.Opens.String(), "closes": s.Closes.String(), "checks-by": s.ChecksBy.String(), "reading-ends": s.ReadingEnds.String(),
		"answer-on": s.AnswerOn.String(), "work-from": s.WorkFrom.String()}
}

// defaults of a new round: opening in two weeks, on working days.
func defaults(now time.Time) pattern.Settings {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		zone = time.UTC
	}
	today := calendar.DateOf(now, zone)
	on := func(days, hour int) calendar.Wall {
		return calendar.At(calendar.AddWorkingDays(today.AddDays(days-1), 1, nil), hour, 0)
	}
	return pattern.Settings{Programme: "Shore & Peat Repair Grants", Prefix: "SPR", About: "", Contact: "grants@ostrel-trust.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 3, HoldMinutes: 30,
		Opens: on(14, 9), Closes: on(56, 16), ChecksBy: on(66, 17), ReadingEnds: on(87, 17), AnswerOn: on(101, 12), WorkFrom: today.AddDays(120)}
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
	s = pattern.Settings{Name: typed["name"], Programme: typed["programme"], Prefix: strings.ToUpper(typed["prefix"]), About: typed["about"], Contact: typed["contact"],
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
	for name, to := range map[string]*calendar.Wall{"opens": &s.Opens, "closes": &s.Closes, "checks-by": &s.ChecksBy, "reading-ends": &s.ReadingEnds, "answer-on": &s.AnswerOn} {
		if to.UnmarshalText([]byte(typed[name])) != nil || to.IsZero() {
			bad("“" + typed[name] + "” is not a date and time.")
		}
	}
	if s.WorkFrom.UnmarshalText([]byte(typed["work-from"])) != nil || s.WorkFrom.IsZero() {
		bad("“" + typed["work-from"] + "” is not a date.")
	}
	return s, typed, faults
}

// faultsOf writes a compiler's faults as sentences.
func faultsOf(err error) []string {
	var out []string
	var joined interface{ Unwrap() []error }
	if errors.As(err, &joined) {
		for _, e := range joined.Unwrap() {
			out = append(out, e.Error()+".")
		}
		return out
	}
	return []string{err.Error() + "."}
}

// NewRound shows the fields of the pattern for grants.
func NewRound(r *site.Request) error {
	return drawNew(r, fiber.StatusOK, designForm{Typed: typedFrom(defaults(r.At))})
}

func drawNew(r *site.Request, status int, d designForm) error {
	d.Zones = zones
	return r.Draw(status, "officer/design", view.Page{Title: "A new round", Nav: "rounds", Data: d})
}

// MakeRound makes a round from the pattern.
func MakeRound(r *site.Request) error {
	s, typed, faults := settingsFrom(r)
	if len(faults) > 0 {
		return drawNew(r, fiber.StatusUnprocessableEntity, designForm{Typed: typed, Faults: faults})
	}
	d := pattern.Grants(s)
	if _, err := form.Compile(d); err != nil {
		return drawNew(r, fiber.StatusUnprocessableEntity, designForm{Typed: typed, Faults: faultsOf(err)})
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { _, err := r.Rounds.Create(ctx, tx, d); return err })
	if errors.Is(err, round.ErrTaken) {
		return drawNew(r, fiber.StatusUnprocessableEntity, designForm{Typed: typed, Faults: []string{"Another round has this name already; give it a name of its own."}})
	}
	if err != nil {
		return err
	}
	r.Tell("The round is made. Look it over, then open it.")
	return r.See("/office/rounds/" + string(d.Key) + "/design")
}

// Design shows the working design and its fields.
func Design(r *site.Request) error {
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	return drawDesign(r, fiber.StatusOK, typedFrom(pattern.Of(d)), nil)
}

func drawDesign(r *site.Request, status int, typed map[string]string, faults []string) error {
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	f, err := form.Compile(d)
	if err != nil {
		return err
	}
	out := designForm{Round: &r.Round, Typed: typed, Faults: faults, Form: f, Zones: zones}
	if r.Round.DesignID != nil {
		if out.Number, err = r.Rounds.Number(r.Context, r.DB, *r.Round.DesignID); err != nil {
			return err
		}
		published, err := r.Rounds.Form(r.Context, r.DB, *r.Round.DesignID)
		if err != nil {
			return err
		}
		a, _ := json.Marshal(published.Design)
		b, _ := json.Marshal(d)
		out.Changed = string(a) != string(b)
	}
	return drawRound(r, status, "officer/design", "Design of "+r.Round.Name, "design", f, out)
}

// SaveDesign sets the fields on the working design.
func SaveDesign(r *site.Request) error {
	s, typed, faults := settingsFrom(r)
	if len(faults) > 0 {
		return drawDesign(r, fiber.StatusUnprocessableEntity, typed, faults)
	}
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	s.Key = d.Key
	s.Apply(d)
	if _, err := form.Compile(d); err != nil {
		return drawDesign(r, fiber.StatusUnprocessableEntity, typed, faultsOf(err))
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Rounds.Save(ctx, tx, r.Round.ID, d) }); err != nil {
		return err
	}
	r.Tell("The design is kept. Applicants meet it once you open the round with it.")
	return r.See("/office/rounds/" + r.Round.Key + "/design")
}

// Open publishes the working design; drafts move to it.
func Open(r *site.Request) error {
	err := program.Open(r.Context, r.Program, r.Actor(), r.At, r.Round.ID)
	if err != nil {
		d, derr := round.Decode(r.Round.Working)
		if derr != nil {
			return derr
		}
		return drawDesign(r, fiber.StatusUnprocessableEntity, typedFrom(pattern.Of(d)), faultsOf(err))
	}
	r.Tell("The round is published with this design.")
	return r.See("/office/rounds/" + r.Round.Key)
}

// ExportDesign sends the working design as a JSON document.
func ExportDesign(r *site.Request) error {
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	b, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		return err
	}
	return r.Download(r.Round.Key+".design.json", "application/json", b)
}
