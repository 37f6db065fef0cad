// Package programtest builds a whole Program on a database of its own, with
// the mail tray and a clock that stands still, for tests of use cases.
package programtest

import (
	"context"
	"encoding/hex"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jackc/pgx/v5"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/funder"
	"ulvant/core/pattern"
	"ulvant/internal/people"
	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/config"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/program"
	"ulvant/internal/standin/paydesk"
	"ulvant/internal/standin/tray"
)

// Fast is a password hash that costs little, for tests only.
var Fast = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Main lets the test binary be its own inspecting child; call it from TestMain. What comes
// after the tests is done whatever came of them.
func Main(m *testing.M, after ...func()) {
	if os.Getenv(inspect.Env) == inspect.Command {
		os.Exit(inspect.Child(os.Args[2], os.Args[3:]...))
	}
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelError})))
	code := m.Run()
	for _, do := range after {
		do()
	}
	os.Exit(code)
}

// House is a Program under test.
type House struct {
	*program.Program
	T     testing.TB
	Clock *clock.Settable
	Tray  *tray.Tray
	Till  *paydesk.Desk // the payment desk; it sends no notices by itself
}

// Noon is where the clock stands at first: Tuesday 2 March 2027.
var Noon = time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC)

// New builds one on a fresh clone.
func New(t testing.TB) *House {
	t.Helper()
	url, _ := dbtest.New(t)
	return On(t, url, t.TempDir(), clock.NewSettable(Noon))
}

// On builds one on a given database and data folder; a nil clock stands at Noon.
func On(t testing.TB, url, dir string, c *clock.Settable) *House {
	t.Helper()
	if c == nil {
		c = clock.NewSettable(Noon)
	}
	h := open(t, url, dir, c)
	t.Cleanup(func() { h.Close(); h.Tray.Stop() })
	return h
}

// open builds one that the caller closes.
func open(t testing.TB, url, dir string, c *clock.Settable) *House {
	t.Helper()
	mails, err := tray.Start("127.0.0.1:0", dir+"/tray")
	if err != nil {
		t.Fatal(err)
	}
	secret := []byte("of a test, and of no more")
	till, err := paydesk.Start("127.0.0.1:0", secret, "", dir+"/paydesk.json")
	if err != nil {
		t.Fatal(err)
	}
	till.By(c.Now)
	t.Cleanup(till.Stop)
	cfg, _, err := config.Load([]string{"--paydesk", "http://" + till.Addr, "--paydesk-key", hex.EncodeToString(secret),
		"--database", url, "--data", dir, "--smtp", mails.Addr, "--connections", "8"},
		func(string) string { return "" })
	if err != nil {
		t.Fatal(err)
	}
	p, err := program.New(context.Background(), cfg, c, Fast)
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Do(context.Background(), db.Job, c.Now(), func(ctx context.Context, tx *db.Tx) error {
		if p.Funder.Version() > 0 {
			return nil
		}
		return p.Funder.Set(ctx, tx, 0, Isles)
	}); err != nil {
		t.Fatal(err)
	}
	if err := p.Funder.Load(context.Background()); err != nil {
		t.Fatal(err)
	}
	return &House{p, t, c, mails, till}
}

// Isles is what holds for the office of every test.
var Isles = funder.Settings{Name: "The Ostrel Isles Trust", Zone: "Europe/Dublin", Country: "IE"}

// Act runs a use case now, and fails the test when it fails.
func (h *House) Act(account int64, f func(context.Context, *db.Tx) error) {
	h.T.Helper()
	if err := h.Try(account, f); err != nil {
		h.T.Fatal(err)
	}
}

// Try runs a use case now.
func (h *House) Try(account int64, f func(context.Context, *db.Tx) error) error {
	return h.Do(context.Background(), db.Account(account), h.Clock.Now(), f)
}

// Drain runs every job that is due.
func (h *House) Drain() {
	h.T.Helper()
	if err := h.Jobs.Drain(context.Background(), h.Clock.Now()); err != nil {
		h.T.Fatal(err)
	}
}

// Password of every Person.
const Password = "reed bed groyne"

// Person makes a confirmed account with Password.
func (h *House) Person(email, name string) people.Account {
	h.T.Helper()
	hash, err := h.People.Hash(Password)
	if err != nil {
		h.T.Fatal(err)
	}
	var a people.Account
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		if a, err = h.People.Invite(ctx, tx, email, name); err != nil {
			return err
		}
		if err := h.People.SetPassword(ctx, tx, a.ID, hash); err != nil {
			return err
		}
		a, err = h.People.Find(ctx, tx, a.ID)
		return err
	})
	return a
}

// Settings of the round most tests use: open since yesterday at Noon, closing
// on Friday 9 April 2027 at 16:00 in Dublin.
func Settings() pattern.Settings {
	day := func(m time.Month, d, h int) calendar.Wall { return calendar.At(calendar.NewDate(2027, m, d), h, 0) }
	return pattern.Settings{Key: "shore-2027", Name: "Shore & Peat Repair Grants, spring 2027",
		Programme: "Shore & Peat Repair Grants", Prefix: "SPR",
		About: "Repair of shores, peat and old grassland.", Contact: "grants@ostrel-trust.example", Zone: "Europe/Dublin",
		Currency: "EUR",
		Fund:     20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 2, HoldMinutes: 30,
		Opens: day(3, 1, 9), Closes: day(4, 9, 16), ChecksBy: day(4, 20, 17), ReadingEnds: day(5, 7, 17), AnswerOn: day(5,
			21, 12), WorkFrom: calendar.NewDate(2027, 7, 1)}
}

// OpenRound makes and publishes a round of Settings, changed by change.
func (h *House) OpenRound(officer int64, change func(*form.Design)) int64 {
	h.T.Helper()
	d := pattern.Grants(Settings())
	if change != nil {
		change(d)
	}
	var id int64
	h.Act(officer, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = h.Rounds.Create(ctx, tx, d); err != nil {
			return err
		}
		_, _, err = h.Rounds.Publish(ctx, tx, id)
		return err
	})
	return id
}

// Crowd runs statements that multiply what is there, for pages tried at a size no
// test could build; $1, $2, … stand for args.
func (h *House) Crowd(statements string, args ...any) {
	h.T.Helper()
	for i, a := range args {
		said := fmt.Sprint(a)
		if text, is := a.(string); is {
			said = "'" + strings.ReplaceAll(text, "'", "''") + "'"
		}
		statements = strings.ReplaceAll(statements, fmt.Sprintf("$%d", i+1), said)
	}
	if _, err := h.DB.Pool.Exec(context.Background(), statements+"; ANALYZE",
		pgx.QueryExecModeSimpleProtocol); err != nil {
		h.T.Fatal(err)
	}
}
