package applicant

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/identifier"
	core "ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// stepView is one step of taking an organisation on.
type stepView struct {
	Step    core.Step
	Label   string
	Lacks   []string
	Current bool
}

// Profiles lists those that the account may act for.
func Profiles(r *site.Request) error { return drawProfiles(r, fiber.StatusOK, "", "") }

// profilesPage is what applicant/profiles.html draws.
type profilesPage struct {
	List    []profile.Profile
	At      string
	Problem string
	Name    string
	Value   string
	Scheme  string
	Schemes []identifier.Scheme
	Needed  int
	Days    int
}

func drawProfiles(r *site.Request, status int, at, problem string) error {
	list, err := r.Profiles.Of(r.Context, r.DB, r.Account.ID)
	if err != nil {
		return err
	}
	return r.Draw(status, "applicant/profiles", view.Page{Title: "Profiles", Nav: "profiles",
		Data: profilesPage{List: list, At: at, Problem: problem, Name: r.FormValue("name"), Value: r.FormValue("value"),
			Scheme: r.FormValue("scheme"), Schemes: identifier.OfBodies(),
			Needed: r.Profiles.Needed, Days: r.Profiles.Days}})
}

// MakeProfile begins one's own, or takes an organisation on.
func MakeProfile(r *site.Request) error {
	kind, name := core.Body, r.FormValue("name")
	if r.FormValue("kind") == string(core.Person) {
		kind, name = core.Person, r.Account.Name
	}
	var id int64
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = r.Profiles.Make(ctx, tx, kind, name)
		return err
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawProfiles(r, fiber.StatusUnprocessableEntity, "new", unfit.Sentence())
	}
	if err != nil {
		return err
	}
	return r.See("/profiles/" + strconv.FormatInt(id, 10))
}

// Claim asks for a code to join an organisation that is known.
func Claim(r *site.Request) error {
	if ok, err := r.Tries("claim"); err != nil || !ok {
		return orTooMany(err)
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Profiles.ClaimByNumber(ctx, tx, r.FormValue("scheme"), r.FormValue("value"))
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawProfiles(r, fiber.StatusUnprocessableEntity, "claim", unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("If it is known to us, a code is on its way to the address it gave us. Ask them for it.")
	return r.See("/profiles#code")
}

// Join takes the code.
func Join(r *site.Request) error {
	if ok, err := r.Tries("join"); err != nil || !ok {
		return orTooMany(err)
	}
	var id int64
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = r.Profiles.Join(ctx, tx, r.FormValue("code"))
		return err
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawProfiles(r, fiber.StatusUnprocessableEntity, "code", unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("You may act for it now.")
	return r.See("/profiles/" + strconv.FormatInt(id, 10))
}

func orTooMany(err error) error {
	if err != nil {
		return err
	}
	return fiber.NewError(fiber.StatusTooManyRequests,
		"There were too many tries. Wait a quarter of an hour and try again.")
}

func profileOf(r *site.Request) (profile.Profile, error) {
	id, err := strconv.ParseInt(r.Params("profile"), 10, 64)
	if err != nil {
		return profile.Profile{}, fiber.ErrNotFound
	}
	p, err := r.Profiles.Find(r.Context, r.DB, id, r.Account.ID)
	if errors.Is(err, profile.ErrNotFound) {
		err = fiber.ErrNotFound
	}
	return p, err
}

// Profile shows one, at one of its steps.
func Profile(r *site.Request) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	return drawProfile(r, fiber.StatusOK, p, core.Step(r.Query("step")), "")
}

// profilePage is what applicant/profile.html draws.
type profilePage struct {
	P            profile.Profile
	Steps        []stepView
	At           core.Step
	Lacks        []core.Lack
	Numbers      []profile.Number
	Members      []profile.Member
	Officers     []profile.Officer
	Sponsors     []profile.Sponsor
	Asked        bool
	Holds        []profile.Sponsor
	Typed        string
	Problem      string
	Schemes      []identifier.Scheme
	Notices      []core.Notice
	Needed       int
	Days         int
	Zone         *time.Location
	Me           int64
	May          bool
	Stale        bool
	MoreNumbers  []core.Number
	MoreContacts []core.Contact
	Handovers    []profile.Handover
	Before       []desk.Before
	Papers       []profile.Paper
	Forms        []core.LegalForm
	Most         int64 // bytes of a paper
	Renewal      profile.Renewal
}

// mostBefore is how many earlier applications stand on a profile's page.
const mostBefore = 20

func drawProfile(r *site.Request, status int, p profile.Profile, at core.Step, problem string) error {
	lacks, err := r.Profiles.Lacks(r.Context, r.DB, p, r.At)
	if err != nil {
		return err
	}
	by := map[core.Step][]string{}
	for _, l := range lacks {
		by[l.Step] = append(by[l.Step], l.What)
	}
	var steps []stepView
	here, next := false, core.Step("")
	for _, s := range core.Steps(p.Kind) {
		if next == "" && len(by[s]) > 0 {
			next = s
		}
		here = here || s == at
	}
	if !here {
		if at = next; at == "" {
			at = core.Details
		}
	}
	for _, s := range core.Steps(p.Kind) {
		steps = append(steps, stepView{s, s.Label(), by[s], s == at})
	}
	sponsors, err := r.Profiles.Sponsors(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	holds, err := r.Profiles.Holds(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	numbers, err := r.Profiles.Numbers(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	members, err := r.Profiles.Members(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	officers, err := r.Profiles.Officers(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	handovers, err := r.Profiles.Handovers(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	before, err := r.Desk.BeforeFor(r.Context, p.ID, nil, mostBefore)
	if err != nil {
		return err
	}
	papers, err := r.Profiles.Papers(r.Context, r.DB, p, r.At)
	if err != nil {
		return err
	}
	renewal, err := r.Profiles.Renewal(r.Context, r.DB, p, r.At)
	if err != nil {
		return err
	}
	return r.Draw(status, "applicant/profile", view.Page{Title: p.Name, Nav: "profiles",
		Data: profilePage{P: p, Steps: steps, At: at, Handovers: handovers, Before: before,
			Papers: papers, Renewal: renewal, Forms: core.LegalForms, Most: slot.MostPlain,
			Lacks: lacks, Numbers: numbers, Members: members, Officers: officers,
			Sponsors: sponsors, Asked: len(sponsors) > 0 &&
				sponsors[0].Open(), Holds: holds, Typed: r.FormValue("value"), Problem: problem, Schemes: identifier.OfBodies(),
			Notices: core.Notices,
			Needed:  r.Profiles.Needed, Days: r.Profiles.Days, Zone: r.Profiles.Zone(), Me: r.Account.ID, May: p.State.Open(),
			Stale:       r.At.Sub(p.FactsAt) > core.Stale,
			MoreNumbers: append(p.Facts.Numbers, core.Number{}), MoreContacts: append(p.Facts.Contacts,
				make([]core.Contact, max(1, core.LeastContacts-len(p.Facts.Contacts)))...)}})
}

// KeepStep keeps what one step asks and goes on to the next that lacks something.
func KeepStep(r *site.Request) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	step := core.Step(r.Params("step"))
	value := func(name string) string { return strings.TrimSpace(r.FormValue(name)) }
	name, facts := p.Name, p.Facts
	switch step {
	case core.Details:
		name, facts.Legal, facts.Phone, facts.Born = value("name"), value("legal"), value("phone"), value("born")
	case core.Numbers:
		facts.Numbers = nil
		schemes, values := r.Values("scheme"), r.Values("value")
		for i, v := range values {
			if v = strings.TrimSpace(v); v != "" && i < len(schemes) {
				facts.Numbers = append(facts.Numbers, core.Number{Scheme: schemes[i], Value: v})
			}
		}
	case core.Papers:
		facts.Form = core.LegalForm(value("form"))
	case core.Addresses:
		facts.Seat = core.Address{Street: value("seat-street"), Town: value("seat-town"), Postcode: value("seat-postcode")}
		facts.Post = core.Address{Street: value("post-street"), Town: value("post-town"), Postcode: value("post-postcode")}
	case core.Contacts:
		facts.Contacts = nil
		names, emails := r.Values("name"), r.Values("email")
		for i, n := range names {
			if i >= len(emails) || strings.TrimSpace(n) == "" && strings.TrimSpace(emails[i]) == "" {
				continue
			}
			c := core.Contact{Name: strings.TrimSpace(n), Email: people.Fold(emails[i])}
			for _, k := range core.Notices {
				if r.FormValue("gets"+strconv.Itoa(i)+"-"+string(k)) == "yes" {
					c.Gets = append(c.Gets, k)
				}
			}
			facts.Contacts = append(facts.Contacts, c)
		}
	default:
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Profiles.Change(ctx, tx, p.ID, name, facts) })
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		p.Name, p.Facts = name, facts
		return drawProfile(r, fiber.StatusUnprocessableEntity, p, step, unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("Kept.")
	next := step
	if steps := core.Steps(p.Kind); r.FormValue("go") == "next" {
		for i, s := range steps {
			if s == step && i+1 < len(steps) {
				next = steps[i+1]
			}
		}
	}
	return r.See("/profiles/" + r.Params("profile") + "?step=" + string(next))
}

// PutProfilePaper puts a paper onto an organisation's shelf, in place of the one
// there was.
func PutProfilePaper(r *site.Request) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	paper, ok := p.Facts.Form.PaperOf(r.Params("paper"))
	if !ok {
		return fiber.ErrNotFound
	}
	wrong := func(says string) error { return drawProfile(r, fiber.StatusUnprocessableEntity, p, core.Papers, says) }
	if !p.State.Open() {
		return wrong("The office is looking it over; nothing can be changed until it has.")
	}
	var until calendar.Date
	if typed := strings.TrimSpace(r.FormValue("until")); typed != "" {
		if until, ok = calendar.ParseDate(typed); !ok {
			return wrong("The day “" + typed + "” cannot be read. Write it as 31 May 2027.")
		}
	}
	h, body, err := r.Upload("file")
	if err != nil {
		return wrong("Choose a file first.")
	}
	defer body.Close()
	ctx, cancel := r.UploadContext()
	defer cancel()
	if _, err := r.Materials.Shelve(ctx, r.Actor(), r.At, p.ID, paper.Key, h.Filename, until, h.Size, body); err != nil {
		if no, ok := refusal.Of(err); ok && no.Kind != refusal.KindMissing {
			return wrong(no.Sentence())
		}
		return err
	}
	r.Tell(paper.Label + ": kept, on the shelf of " + p.Name + ".")
	return r.See("/profiles/" + r.Params("profile") + "?step=papers")
}

// within runs something on a profile and comes back to a step of it.
func within(step core.Step, says string, do func(ctx context.Context, tx *db.Tx, r *site.Request,
	id int64) error) func(*site.Request) error {
	return func(r *site.Request) error {
		p, err := profileOf(r)
		if err != nil {
			return err
		}
		err = r.Act(func(ctx context.Context, tx *db.Tx) error { return do(ctx, tx, r, p.ID) })
		var unfit refusal.Refusal
		switch {
		case refusal.AsUnfit(err, &unfit):
			return drawProfile(r, fiber.StatusUnprocessableEntity, p, step, unfit.Sentence())
		case errors.Is(err, profile.ErrNotFound):
			return fiber.ErrNotFound
		case err != nil:
			return err
		}
		r.Tell(says)
		if _, err := r.Profiles.Find(r.Context, r.DB, p.ID, r.Account.ID); err != nil {
			return r.See("/profiles") // one's own part has ended
		}
		return r.See("/profiles/" + r.Params("profile") + "?step=" + string(step))
	}
}

func param(r *site.Request, name string) int64 {
	n, _ := strconv.ParseInt(r.Params(name), 10, 64)
	return n
}

// AskSponsor asks a body by its number to hold the money; few tries, since
// numbers could be guessed at and each may send a mail.
func AskSponsor(r *site.Request) error {
	if ok, err := r.Tries("sponsor"); err != nil || !ok {
		return orTooMany(err)
	}
	return askSponsor(r)
}

// The acts on a profile.
var (
	AskOfficer = within(core.Officers, "They are asked by mail.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.AskOfficer(ctx, tx, id, r.FormValue("name"), r.FormValue("email"), r.FormValue("post"))
		})
	RevokeOfficer = within(core.Officers, "Their link no longer works.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.RevokeOfficer(ctx, tx, id, param(r, "officer"))
		})
	askSponsor = within(core.Sponsored,
		"Asked. If a body is known to us under this number, its first contact has a mail.", func(ctx context.Context,
			tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.AskSponsor(ctx, tx, id, r.FormValue("scheme"), r.FormValue("value"))
		})
	EndSponsor = within(core.Sponsored, "Ended.", func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
		return r.Profiles.EndSponsor(ctx, tx, id, param(r, "id"))
	})
	HandInProfile = within(core.Officers, "It is with the office.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.SendIn(ctx, tx, id)
		})
	RenewProfile = within(core.Details, "Renewed. Thank you.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			version, _ := strconv.Atoi(r.FormValue("version"))
			return r.Profiles.Renew(ctx, tx, id, version)
		})
	AuthoriseMember = within(core.Details, "They are asked. Nothing changes until they agree.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.Propose(ctx, tx, id, param(r, "account"), r.FormValue("reason"), false)
		})
	AnswerHandover = within(core.Details, "Your answer is kept, and the others are told.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.AnswerHandover(ctx, tx, id, r.FormValue("answer") == "yes")
		})
	DropMember = within(core.Details, "They no longer act for it.",
		func(ctx context.Context, tx *db.Tx, r *site.Request, id int64) error {
			return r.Profiles.Drop(ctx, tx, id, param(r, "account"))
		})
)
