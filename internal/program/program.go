// Package program puts the parts together: one Program has every use case on
// one database. The command, the demo and the tests all build it here.
package program

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"ulvant/core/calendar"
	"ulvant/internal/application"
	"ulvant/internal/award"
	"ulvant/internal/ballot"
	"ulvant/internal/bulk"
	"ulvant/internal/check"
	"ulvant/internal/colleague"
	"ulvant/internal/connection"
	"ulvant/internal/decision"
	"ulvant/internal/desk"
	"ulvant/internal/enquiry"
	"ulvant/internal/fee"
	"ulvant/internal/funder"
	"ulvant/internal/guidance"
	"ulvant/internal/intake"
	"ulvant/internal/interview"
	"ulvant/internal/material"
	"ulvant/internal/offer"
	"ulvant/internal/panel"
	"ulvant/internal/people"
	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/config"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/files"
	"ulvant/internal/platform/health"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/limit"
	"ulvant/internal/platform/link"
	"ulvant/internal/platform/mail"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/platform/scan"
	"ulvant/internal/platform/work"
	"ulvant/internal/post"
	"ulvant/internal/profile"
	"ulvant/internal/reading"
	"ulvant/internal/reference"
	"ulvant/internal/round"
	"ulvant/internal/sealcopy"
	"ulvant/internal/survey"
	"ulvant/internal/together"
)

// Program is every use case, ready to serve.
type Program struct {
	Config     *config.Config
	Clock      clock.Clock
	DB         *db.DB
	Jobs       *jobs.Queue
	Links      link.Maker
	SealKey    ed25519.PrivateKey
	FormKey    []byte // for the tokens in forms
	Files      *files.Store
	heavy      limit.Gate
	Funder     *funder.Store
	Post       *post.Office
	People     *people.Store
	Rounds     *round.Store
	Enquiries  *enquiry.Store
	Guidance   *guidance.Store
	Profiles   *profile.Store
	Surveys    *survey.Store
	Together   *together.Store
	Hears      *together.Listener
	Health     *health.Meter
	Cases      *application.Store
	Materials  *material.Store
	Referees   *reference.Store
	Fees       *fee.Store
	Intake     *intake.Store
	Connected  *connection.Store
	Checks     *check.Store
	Reading    *reading.Store
	Interviews *interview.Store
	Panel      *panel.Store
	Decisions  *decision.Store
	Awards     *award.Store
	Offers     *offer.Store
	Ballots    *ballot.Store
	Work       *work.Store
	Colleagues *colleague.Store
	Bulk       *bulk.Store
	Desk       *desk.Desk
}

// New connects everything. params are the password hasher's; nil for its defaults.
func New(ctx context.Context, cfg *config.Config, c clock.Clock, params *argon2id.Params) (*Program, error) {
	d, err := db.Open(ctx, cfg.DatabaseURL, cfg.Connections)
	if err != nil {
		return nil, err
	}
	if err := loadKey(cfg); err != nil {
		return nil, err
	}
	p := &Program{Config: cfg, Clock: c, DB: d, Links: link.Maker{Key: cfg.Key[:32]},
		FormKey: append([]byte("form"), cfg.Key[:32]...),
		SealKey: ed25519.NewKeyFromSeed(cfg.Key[32:64])}
	p.heavy = limit.NewGate()
	if p.Files, err = files.Open(filepath.Join(cfg.DataDir, "files")); err != nil {
		return nil, err
	}
	if p.Jobs, err = jobs.New(d, c); err != nil {
		return nil, err
	}
	p.Funder = &funder.Store{DB: d}
	if err := p.Funder.Load(ctx); err != nil {
		return nil, err
	}
	p.Post = &post.Office{DB: d, Jobs: p.Jobs, Links: p.Links, Server: mail.Server{Addr: cfg.SMTP}, From: cfg.MailFrom,
		Name: p.Funder.Name, Under: p.Funder.Under, BaseURL: cfg.BaseURL}
	p.People = &people.Store{DB: d, Links: p.Links, Post: p.Post, ConfirmLife: cfg.ConfirmLife,
		SessionLife: cfg.SessionLife, SessionIdle: cfg.SessionIdle, Heavy: p.heavy, Params: params,
		Verify: people.OneByOne(p.heavy)}
	p.Rounds = &round.Store{DB: d, Off: p.Funder.Off}
	p.Enquiries = &enquiry.Store{DB: d, Rounds: p.Rounds, People: p.People, Post: p.Post}
	p.Cases = &application.Store{DB: d, Rounds: p.Rounds, Post: p.Post}
	p.Materials = &material.Store{DB: d, Cases: p.Cases, Files: p.Files, Jobs: p.Jobs, Life: cfg.UploadLife,
		Scans: scan.Scanner{Addr: cfg.Scanner},
		Bench: inspect.Bench{Gate: make(limit.Gate, 1)}, Pieces: make(limit.Gate, 2)}
	p.Guidance = &guidance.Store{DB: d, Rounds: p.Rounds, Cases: p.Cases, Materials: p.Materials, Post: p.Post,
		Jobs: p.Jobs}
	p.Referees = &reference.Store{DB: d, Cases: p.Cases, Materials: p.Materials, Post: p.Post, Links: p.Links,
		LinkLife: cfg.LinkLife, Jobs: p.Jobs}
	p.Fees = &fee.Store{DB: d, Cases: p.Cases, Links: p.Links, LinkLife: cfg.LinkLife, Jobs: p.Jobs,
		Desk: paydesk.Desk{Base: cfg.Paydesk, Secret: cfg.PaydeskKey, Client: &http.Client{}}}
	p.Cases.Parts = []application.Part{material.Part, reference.Part, fee.Part}
	p.Intake = &intake.Store{DB: d, Cases: p.Cases, Materials: p.Materials, Referees: p.Referees, Fees: p.Fees,
		People: p.People,
		Links:  p.Links, Jobs: p.Jobs, SealKey: p.SealKey}
	p.Fees.Enter = p.Intake.EnterPaid
	p.Checks = &check.Store{DB: d, Cases: p.Cases, Jobs: p.Jobs, Materials: p.Materials, Guidance: p.Guidance,
		Referees: p.Referees, // its profiles come below
		Declared: check.Declarations{Base: strings.TrimRight(cfg.Declarations, "/"), Client: &http.Client{}}}
	p.Work = &work.Store{DB: d}
	later := &round.Later{DB: d, Rounds: p.Rounds, Work: p.Work}
	p.Referees.Later, p.Fees.Later = later, later
	p.Reading = &reading.Store{DB: d, Cases: p.Cases, People: p.People, Post: p.Post, Links: p.Links,
		LinkLife: cfg.LinkLife, Jobs: p.Jobs, Later: later}
	p.Interviews = &interview.Store{DB: d, Cases: p.Cases, Post: p.Post, Mail: cfg.MailFrom, Key: p.FormKey,
		Takes: cfg.Bounces != ""}
	p.Panel = &panel.Store{DB: d, People: p.People}
	p.Decisions = &decision.Store{Panel: p.Panel, DB: d, Cases: p.Cases, Reading: p.Reading, Interviews: p.Interviews,
		Post: p.Post,
		Jobs: p.Jobs, Later: later}
	p.Awards = &award.Store{DB: d, Cases: p.Cases, Decisions: p.Decisions, Jobs: p.Jobs, Later: later}
	p.Offers = &offer.Store{DB: d, Cases: p.Cases, Decisions: p.Decisions, Awards: p.Awards, Post: p.Post}
	p.Ballots = &ballot.Store{DB: d, Cases: p.Cases, Post: p.Post, Jobs: p.Jobs, Later: later,
		BaseURL: cfg.BaseURL, Key: p.FormKey}
	p.Profiles = &profile.Store{DB: d, Post: p.Post, Links: p.Links, People: p.People, Jobs: p.Jobs,
		Asks:   profile.HTTPRegister{Base: strings.TrimRight(cfg.Register, "/"), Client: &http.Client{}},
		Needed: cfg.Officers, Days: cfg.LookOverDays, Zone: p.Funder.Zone, Off: p.Funder.Off,
		Contact: func() string { return p.Funder.Mail(cfg.MailFrom) }}
	p.Connected = &connection.Store{DB: d, Cases: p.Cases, Profiles: p.Profiles, Jobs: p.Jobs}
	p.Checks.Zone = p.Funder.Zone
	p.Checks.Connections, p.Reading.Connections, p.Interviews.Connections, p.Panel.Connections = p.Connected,
		p.Connected, p.Connected, p.Connected
	p.Cases.Signers = p.Profiles.Signers
	p.Post.Copies, p.Intake.Profiles, p.Checks.Profiles = p.Profiles.Copies, p.Profiles, p.Profiles
	p.Surveys = &survey.Store{DB: d}
	p.Together, p.Hears = &together.Store{DB: d, Cases: p.Cases}, &together.Listener{Pool: d.Pool}
	p.Health = &health.Meter{DB: d}
	p.Desk = &desk.Desk{DB: d}
	p.Colleagues = &colleague.Store{DB: d, Cases: p.Cases, People: p.People}
	p.Bulk = &bulk.Store{DB: d, Cases: p.Cases, Checks: p.Checks, Colleagues: p.Colleagues, Intake: p.Intake,
		People: p.People, Post: p.Post, Jobs: p.Jobs, Work: p.Work}
	p.Post.Attach, p.Post.OnSent, p.Post.Holds = p.Copy, p.letterSent, p.Cases.LetterHolds
	p.Post.OnBounce = p.bounced
	p.Post.TextDomain, p.Post.TextsTo, p.Post.RefOf = cfg.Texts, p.People.TextsTo, p.Cases.RefOf
	p.Post.ByDay = func(at time.Time) time.Time { return calendar.ByDay(at, p.Funder.Zone()) }
	p.Post.Register()
	p.Profiles.Register()
	p.Materials.Register()
	p.Checks.Register()
	p.Guidance.Register()
	p.Referees.Register()
	p.Fees.Register()
	p.Reading.Register()
	p.Decisions.Register()
	p.Awards.Register()
	p.Ballots.Register()
	p.Bulk.Register()
	p.Jobs.Sweeping("standing", p.Cases.Sweep)
	p.Jobs.Sweeping("known", p.Cases.SweepKnown)
	p.Jobs.Sweeping("forgotten letters", p.Post.Forget)
	p.Jobs.Sweeping("readers' notes", p.Decisions.SendNotes)
	p.Jobs.Sweeping("offers", p.Offers.Sweep)
	p.Jobs.Sweeping("presence", p.Together.Sweep)
	p.Jobs.Sweeping("profiles", p.Profiles.Sweep)
	p.Jobs.Sweeping("connections", p.Connected.Sweep)
	p.Jobs.Sweeping("declarations", p.Checks.Sweep)
	p.Jobs.Sweeping("registers", p.Checks.SweepRegisters)
	p.Jobs.Sweeping("turns", p.Checks.SweepTurns)
	p.Jobs.Sweeping("awaited letters", p.Checks.SweepLetters)
	p.Jobs.Sweeping("health", p.Health.Keep)
	p.Jobs.Sweeping("queries", p.Intake.SweepQueries)
	p.Jobs.Sweeping("reminders", p.Intake.SweepReminders)
	p.Jobs.Sweeping("readers", p.Reading.SweepReaders)
	p.Jobs.Sweeping("interviews", p.Interviews.Sweep)
	p.Jobs.Sweeping("hurdles", p.Intake.SweepHurdles)
	p.Jobs.Sweeping("promised", p.Intake.SweepPromised)
	p.Jobs.Sweeping("materials", p.Materials.Sweep)
	p.Jobs.Sweeping("referees", p.Referees.Sweep)
	p.Jobs.Sweeping("fees", p.Fees.Sweep)
	p.Jobs.Sweeping("asked", p.Profiles.SweepAsked)
	p.Jobs.Sweeping("renewals", p.Profiles.SweepRenewals)
	p.Jobs.Sweeping("sessions", p.People.Sweep)
	p.Jobs.Sweeping("security", p.People.SweepEvents)
	p.Jobs.Sweeping("attempts", func(ctx context.Context, at time.Time) error { return limit.Sweep(ctx, d, at) })
	return p, nil
}

// letterSent hands a letter that left on to whoever goes on with it: what is told now is
// offered from now on.
func (p *Program) letterSent(ctx context.Context, tx *db.Tx, l post.About) error {
	if err := p.Cases.LetterSent(ctx, tx, l); err != nil {
		return err
	}
	return p.Offers.Made(ctx, tx, l)
}

// bounced hands a mail that came back to whoever owns what it asked.
func (p *Program) bounced(ctx context.Context, tx *db.Tx, b post.Returned) error {
	switch b.Purpose {
	case link.Referee:
		return p.Referees.Bounced(ctx, tx, b.Subject, b)
	case link.Officer, link.Sponsor:
		return p.Profiles.Bounced(ctx, tx, b.Purpose, b.Subject, b)
	}
	if b.Account != 0 {
		return p.People.Elsewhere(ctx, tx, b)
	}
	return nil // it stands with the post of the case
}

// TakeBounces listens for mails that come back, where that is set; stop is never nil.
func (p *Program) TakeBounces() (stop func(), err error) {
	if p.Config.Bounces == "" {
		return func() {}, nil
	}
	_, host, _ := strings.Cut(p.Config.MailFrom, "@")
	in, err := mail.Listen(p.Config.Bounces, host, func(ctx context.Context, token string, raw []byte) error {
		return p.Post.Bounced(ctx, p.Clock.Now(), token, raw)
	}, func(ctx context.Context, token string, raw []byte) error {
		return p.Interviews.Replied(ctx, p.Clock.Now(), token, raw)
	})
	if err != nil {
		return func() {}, err
	}
	return in.Stop, nil
}

// Close the database.
func (p *Program) Close() {
	p.Hears.Stop()
	p.DB.Close()
}

// Do runs one use case.
func (p *Program) Do(ctx context.Context, by db.Actor, at time.Time, f func(context.Context, *db.Tx) error) error {
	return p.DB.Do(ctx, by, at, f)
}

// Copy makes the applicant's PDF of a seal.
func (p *Program) Copy(ctx context.Context, id int64) (name string, pdf []byte, err error) {
	s, err := p.Cases.Sealed(ctx, p.DB, id)
	if err != nil {
		return "", nil, err
	}
	c, err := p.Cases.ByEntry(ctx, p.DB, s.EntryID)
	if err != nil {
		return "", nil, err
	}
	f, err := p.Rounds.Form(ctx, p.DB, c.DesignID)
	if err != nil {
		return "", nil, err
	}
	p.heavy.Do(func() { pdf, err = sealcopy.PDF(f, s, c.RoundName) })
	return c.Ref + ".pdf", pdf, err
}

// loadKey reads the server's key from the data folder, or makes it.
func loadKey(cfg *config.Config) error {
	if cfg.Key != nil {
		return nil
	}
	path := filepath.Join(cfg.DataDir, "server.key")
	raw, err := os.ReadFile(path)
	if os.IsNotExist(err) {
		key := make([]byte, 64)
		rand.Read(key)
		raw = []byte(hex.EncodeToString(key))
		if err := os.MkdirAll(cfg.DataDir, 0o755); err != nil {
			return err
		}
		err = os.WriteFile(path, raw, 0o600)
	}
	if err != nil {
		return err
	}
	cfg.Key, err = hex.DecodeString(strings.TrimSpace(string(raw)))
	if err != nil || len(cfg.Key) != 64 {
		return fmt.Errorf("%s is not a key of 128 hexadecimal digits", path)
	}
	return nil
}

// SealKeyPublic is the key that seals are verified with.
func (p *Program) SealKeyPublic() ed25519.PublicKey { return p.SealKey.Public().(ed25519.PublicKey) }
