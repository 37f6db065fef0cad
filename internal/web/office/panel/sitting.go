package panel

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/agenda"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/decision"
	"ulvant/internal/panel"
	"ulvant/internal/platform/db"
	"ulvant/internal/sealcopy"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// sittingPage is what office/panel/sitting.html and screen.html draw: a meeting.
type sittingPage struct {
	Key    string
	X      panel.Sitting
	Items  []agendaItem
	Now    *current // nil: nothing is talked about
	Over   bool
	Zone   *time.Location
	May    bool // lead it
	Mine   bool // the asker sits in it
	Me     int64
	Hidden bool // names are hidden
	Wrong  refusal.Refusal
	Typed  map[string]string
	Sum    int // minutes of the agenda
	Path   string
}

// agendaItem is a case of the agenda as it is drawn.
type agendaItem struct {
	panel.Item
	Says    string // why it is talked about
	Current bool
	Place   int // in the order
	OutMe   bool
}

// current is the case that is talked about.
type current struct {
	agendaItem
	Row      decision.Row
	Title    string
	Asked    string
	Spread   view.Picture
	Notes    []string // of readers, without their names
	Moves    []panel.Move
	Ends     time.Time // of its time
	Left     string
	Yes, No  int
	Neither  int
	MyVote   string
	Within   bool
	HereVote int // members who are there and in the room
}

func find(r *site.Request) (panel.Sitting, error) {
	id, _ := strconv.ParseInt(r.Params("sitting"), 10, 64)
	x, err := r.Program.Panel.Find(r.Context, r.DB, r.Round.ID, id)
	if errors.Is(err, panel.ErrNone) {
		return x, fiber.ErrNotFound
	}
	return x, err
}

// Sitting shows a meeting: to whoever leads it, and to whoever sits.
func Sitting(r *site.Request) error { return drawSitting(r, fiber.StatusOK, refusal.Refusal{}) }

func drawSitting(r *site.Request, status int, wrong refusal.Refusal) error {
	f, d, err := pageOf(r)
	if err != nil {
		return err
	}
	d.Wrong = wrong
	if wrong.Says != "" {
		for _, k := range []string{"why", "places", "notes"} {
			d.Typed[k] = r.FormValue(k)
		}
	}
	return office.Draw(r, status, "office/panel/sitting", d.X.Name+", "+r.Round.Name, "panel", f, d)
}

// Screen is the meeting on the large screen of the room.
func Screen(r *site.Request) error {
	_, d, err := pageOf(r)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "office/panel/screen", view.Page{Title: d.X.Name, Nav: "rounds", Data: d})
}

func pageOf(r *site.Request) (*form.Form, sittingPage, error) {
	f, err := office.Form(r)
	if err != nil {
		return nil, sittingPage{}, err
	}
	x, err := find(r)
	if err != nil {
		return nil, sittingPage{}, err
	}
	d := sittingPage{Key: r.Round.Key, X: x, Zone: f.Zone, Over: x.EndedAt != nil, May: r.May(access.Decide) &&
		x.EndedAt == nil, Me: r.Account.ID,
		Hidden: f.Design.HideNames, Typed: map[string]string{}, Path: "/office/rounds/" + r.Round.Key + "/panel/" +
			strconv.FormatInt(x.ID, 10)}
	d.Mine = slices.ContainsFunc(x.Members, func(m panel.Member) bool { return m.Account == r.Account.ID })
	table, err := r.Decisions.Order(r.Context, r.DB, r.Round, f, x.Stage)
	if err != nil {
		return nil, d, err
	}
	place := map[int64]int{}
	for i, row := range table.Rows {
		place[row.EntryID] = i
	}
	for _, it := range x.Items {
		o := agendaItem{Item: it, Says: whys[it.Why], Current: x.EntryID != nil && *x.EntryID == it.EntryID,
			OutMe: it.OutOf(r.Account.ID)}
		if d.Hidden {
			o.Title = it.Ref
		}
		i, ok := place[it.EntryID]
		if ok {
			o.Place = i + 1
		}
		d.Sum += it.Minutes
		d.Items = append(d.Items, o)
		if o.Current && ok {
			if d.Now, err = currentOf(r, f, x, o, table.Rows[i]); err != nil {
				return nil, d, err
			}
		}
	}
	return f, d, nil
}

var whys = map[agenda.Why]string{agenda.Close: "too close to call", agenda.Disputed: "marks far apart",
	agenda.AtLine:  "at the line",
	agenda.ByOrder: "as the order has it", agenda.Unmarked: "nobody has marked it"}

func currentOf(r *site.Request, f *form.Form, x panel.Sitting, o agendaItem, row decision.Row) (*current, error) {
	c := &current{agendaItem: o, Row: row, Title: o.Title, Asked: money.Format(row.Asked0(), f.Design.Currency),
		Within: row.Within, Moves: row.Moves,
		Spread: view.Spread(row.Scores, row.Score, f.Design.MostMark())}
	if x.Since != nil {
		c.Ends = x.Since.Add(time.Duration(o.Minutes) * time.Minute)
		c.Left = "over its time"
		if c.Ends.After(r.At) {
			c.Left = strconv.Itoa(int(c.Ends.Sub(r.At).Minutes())+1) + " min left"
		}
	}
	c.Yes, c.No, c.Neither = o.Tally()
	for _, v := range o.Votes {
		if v.Account == r.Account.ID {
			c.MyVote = v.Vote
		}
	}
	for _, m := range x.Members {
		if m.Here && !o.OutOf(m.Account) {
			c.HereVote++
		}
	}
	if o.OutMe { // kept out of its marks, votes and view
		return &current{agendaItem: o, Title: o.Title}, nil
	}
	given, err := r.Reading.Of(r.Context, r.DB, o.EntryID)
	if err != nil {
		return nil, err
	}
	for _, g := range given {
		if g.SentAt != nil && strings.TrimSpace(g.Note) != "" {
			c.Notes = append(c.Notes, g.Note)
		}
	}
	return c, nil
}

// Act is what is done at a meeting: by whoever leads it, and by each member for
// themselves.
func Act(r *site.Request) error {
	x, err := find(r)
	if err != nil {
		return err
	}
	entry, _ := strconv.ParseInt(r.FormValue("entry"), 10, 64)
	account, _ := strconv.ParseInt(r.FormValue("account"), 10, 64)
	do, says := r.FormValue("do"), ""
	leads := r.May(access.Decide)
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		p := r.Program.Panel
		switch do {
		case panel.For, panel.Against, panel.Neither:
			return p.CastVote(ctx, tx, r.Round, x.ID, entry, do)
		case "out":
			if account == 0 || !leads {
				account = r.Account.ID
			}
			return p.StepOut(ctx, tx, r.Round, x.ID, entry, account, r.FormValue("why"))
		case "case back", "case stands":
			why := r.FormValue("why")
			if says = "It is sent back. It is not recorded before a meeting has talked about it again."; do == "case stands" {
				says, why = "It stands.", ""
			}
			return p.AnswerCase(ctx, tx, r.Round, x.ID, entry, why)
		case "confirm", "send back":
			says = map[string]string{"confirm": "The meeting is confirmed.",
				"send back": "The meeting is sent back, with your reason."}[do]
			return p.Answer(ctx, tx, r.Round, x.ID, do == "confirm", r.FormValue("why"))
		}
		if !leads {
			return refusal.New("whoever chairs does that")
		}
		switch do {
		case "take":
			return p.Take(ctx, tx, r.Round, x.ID, entry)
		case "next":
			if err := p.Note(ctx, tx, r.Round, x.ID, entry, r.FormValue("notes")); err != nil {
				return err
			}
			if next := after(x, entry); next != 0 {
				return p.Take(ctx, tx, r.Round, x.ID, next)
			}
			says = "That was the last of the agenda. End the meeting when you are done."
			return nil
		case "note":
			says = "Noted."
			return p.Note(ctx, tx, r.Round, x.ID, entry, r.FormValue("notes"))
		case "back":
			return p.ComeBack(ctx, tx, r.Round, x.ID, entry, account)
		case "here", "away":
			return p.Here(ctx, tx, r.Round, x.ID, account, do == "here")
		case "up", "down":
			n, err := strconv.Atoi(strings.TrimSpace(r.FormValue("places", "1")))
			if err != nil {
				return refusal.In("places", "“"+r.FormValue("places")+"” is not a number of places.")
			}
			if do == "down" {
				n = -n
			}
			says = "Moved; the line follows."
			return p.MoveCase(ctx, tx, r.Round, x.Stage, x.ID, entry, n, r.FormValue("why"))
		case "undo":
			id, _ := strconv.ParseInt(r.FormValue("move"), 10, 64)
			says = "The move is taken back."
			return p.UndoMove(ctx, tx, r.Round, id)
		case "end":
			says = "The meeting is over. Record its decisions; its minutes are here."
			return p.End(ctx, tx, r.Round, x.ID)
		}
		return refusal.New("nothing is to be done")
	})
	if no, ok := refusal.Of(err); ok {
		return drawSitting(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	if says != "" {
		r.Tell(says)
	}
	return r.See("/office/rounds/" + r.Round.Key + "/panel/" + r.Params("sitting"))
}

// after is the next case of the agenda that nobody has talked about; 0 for none.
func after(x panel.Sitting, entry int64) int64 {
	seen := entry == 0
	for _, it := range x.Items {
		if seen && it.TalkedAt == nil && it.EntryID != entry {
			return it.EntryID
		}
		seen = seen || it.EntryID == entry
	}
	for _, it := range x.Items {
		if it.TalkedAt == nil && it.EntryID != entry {
			return it.EntryID
		}
	}
	return 0
}

// Minutes of a meeting as PDF: who was there, what was said and voted on each case, who
// was out, which were moved and why.
func Minutes(r *site.Request) error {
	f, d, err := pageOf(r)
	if err != nil {
		return err
	}
	table, err := r.Decisions.Order(r.Context, r.DB, r.Round, f, d.X.Stage)
	if err != nil {
		return err
	}
	rows := map[int64]decision.Row{}
	for _, row := range table.Rows {
		rows[row.EntryID] = row
	}
	paper := sealcopy.Paper{Title: "Minutes: " + d.X.Name, Head: r.Round.Name + " · " +
		d.X.At.In(f.Zone).Format("2 January 2006, 15:04") + place(d.X.Place), At: r.At}
	var here, away []string
	for _, m := range d.X.Members {
		if m.Here {
			here = append(here, m.Name)
		} else {
			away = append(away, m.Name)
		}
	}
	paper.Parts = append(paper.Parts, sealcopy.Part{Label: "There", Text: strings.Join(here, ", ")},
		sealcopy.Part{Label: "Not there",
			Text: strings.Join(away, ", ")}, sealcopy.Part{Label: "The meeting", Text: d.X.Notes})
	for _, it := range d.Items {
		if it.TalkedAt == nil {
			continue
		}
		var said []string
		row := rows[it.EntryID]
		if it.OutMe {
			said = append(said, "You were out of the room for this case; what was said of it is not in your copy.")
		} else {
			said = append(said, it.Notes)
			if yes, no, neither := it.Tally(); yes+no+neither > 0 {
				said = append(said, fmt.Sprintf("Votes: %d for, %d against, %d neither.", yes, no, neither))
			}
			for _, m := range row.Moves {
				said = append(said, say.MovedPlaces(m.Places)+" by "+m.By+": "+m.Why)
			}
			if row.State.Decided() {
				said = append(said, "Recorded: "+string(row.State)+sumOf(row, f)+".")
			}
		}
		for _, o := range it.Out {
			said = append(said, "Out of the room: "+o.Name+".")
		}
		paper.Parts = append(paper.Parts, sealcopy.Part{Label: it.Ref + " " + it.Title,
			Text: strings.TrimSpace(strings.Join(said, "\n"))})
	}
	if d.X.Said != "" && d.X.SaidBy != nil {
		paper.Foot = "This meeting was " + d.X.Said + " by " + *d.X.SaidBy + " on " +
			d.X.SaidAt.In(f.Zone).Format("2 January 2006") + ". " + d.X.SaidWhy
	}
	pdf, err := paper.Draw()
	if err != nil {
		return err
	}
	return r.Download("minutes-"+r.Round.Key+"-"+r.Params("sitting")+".pdf", "application/pdf", pdf)
}

func place(s string) string {
	if s == "" {
		return ""
	}
	return " · " + s
}

func sumOf(row decision.Row, f *form.Form) string {
	if row.Amount == nil || *row.Amount == 0 || !row.State.Is(lifecycle.Gives) {
		return ""
	}
	return " " + money.Format(*row.Amount, f.Design.Currency)
}
