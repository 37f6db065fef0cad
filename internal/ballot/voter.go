package ballot

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/vote"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// Voter who has a ballot.
type Voter struct {
	ID      int64
	RoundID int64      `db:"round_id"`
	Address *string    // nil: by a code, or forgotten
	Sheet   *int64     `db:"sheet_id"`
	AskedAt time.Time  `db:"asked_at"`
	VotedOn *time.Time `db:"voted_on"` // nil: not yet
	Pattern *int64     `db:"pattern_id"`
}

const voterColumns = `id, round_id, address, sheet_id, asked_at, voted_on, pattern_id`

// The refusals of those who vote.
var (
	ErrNotOpen  = refusal.New("votes are not taken yet")
	ErrClosed   = refusal.Over("the vote is closed").But("the result will stand on its page")
	ErrNoBallot = refusal.Missing("this is not the link of a ballot, or a newer one has taken its place").But(
		"look for the latest mail, or ask for your ballot again")
	ErrCodeUsed = refusal.Over("this code has been used, and each works once").But(
		"to change the ballot, open it by the link that its page gave you; if it was not you, tell the office")
	ErrNoCode = refusal.In(
		"code",
		"No ballot has this code. Look at the letters on the paper again: there is no O, no I, no L, no U, and no 0 or 1.",
	)
	ErrNoAddress = refusal.In("address", "This is not a mail address. It looks like name@place.example.")
)

// open refuses who comes before or after the time of a vote.
func (v Vote) open(f *form.Form, at time.Time) error {
	switch v.Phase(f, at) {
	case Running:
		return nil
	case Preparing:
		return ErrNotOpen
	}
	return ErrClosed
}

// One address is sent so many mails about its ballot at most, and none so soon after
// another.
const (
	mostMails  = 10
	mailsApart = 2 * time.Minute
)

// Ask sends the link of a ballot to an address, from is where it is asked from. Whoever
// asks again before voting is sent another link, in place of the first; an address whose
// ballot is in the box is told so by mail, and the page tells nobody which it was.
func (s *Store) Ask(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, v Vote, address, from string) error {
	if err := v.open(f, tx.At); err != nil {
		return err
	}
	if !f.Design.Vote.ByMail {
		return refusal.Unfit("ballots of this vote are given out on paper alone")
	}
	one, domain, ok := vote.OneAddress(address)
	if !ok {
		return ErrNoAddress
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO voter (round_id, address, network, asked_at) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, v.RoundID,
		one,
		v.network(from), tx.At); err != nil {
		return err
	}
	var x struct {
		Voter
		Asked    int
		MailedAt *time.Time `db:"mailed_at"`
	}
	if err := tx.GetContext(ctx, &x,
		`SELECT `+voterColumns+`, asked, mailed_at FROM voter WHERE round_id = $1 AND address = $2 FOR UPDATE`, v.RoundID,
		one); err != nil {
		return err
	}
	switch { // anybody can type anybody's address: it is neither flooded nor are its links taken away
	case x.Asked >= mostMails:
		return refusal.In("address",
			"This address has been sent its ballot many times. Look for the latest of those mails, or write to us.")
	case x.MailedAt != nil && tx.At.Before(x.MailedAt.Add(mailsApart)):
		return nil
	}
	token := s.newToken()
	if _, err := tx.ExecContext(ctx, `
		UPDATE voter SET asked = asked + 1, mailed_at = $3, token = CASE WHEN voted_on IS NULL THEN $2 ELSE token END WHERE id = $1`, x.ID, token.voter(),
		tx.At); err != nil {
		return err
	}
	l := post.Letter{Kind: "ballot", To: strings.TrimSpace(address), ToName: strings.TrimSpace(address),
		ReplyTo: f.Design.Contact, Forget: true}
	asks, until := f.Design.Vote.Asks, closing(f)
	if x.VotedOn != nil {
		if err := tried(ctx, tx, f, v.RoundID, AgainByMail); err != nil {
			return err
		}
		l.Subject = "Your ballot is in the box already"
		l.Body = fmt.Sprintf("%s\n\nA ballot from this address is in the box since %s. Each address has one. To change it, open it by the link that it was "+
			"given by, in our earlier mail; it can be changed until %s. Nobody can find it for you: who voted and what they chose are kept "+
			"apart.\n\nIf you have not voted, write to %s.", asks, x.VotedOn.Format("2 January"), until, f.Design.Contact)
		_, err := s.Post.Queue(ctx, tx, l)
		return err
	}
	if x.MailedAt == nil {
		if err := s.watch(ctx, tx, v, domain, v.network(from)); err != nil {
			return err
		}
	}
	l.Subject = "Your ballot: " + asks
	l.Body = fmt.Sprintf("%s\n\nThis opens your ballot, on this device or another:\n%s/ballot/%s\n\nIt can be changed by the same link until %s. Keep this "+
		"mail till then, and pass it on to nobody: whoever has it can vote in your stead.\n\nIf you did not ask for it, do nothing: nothing is "+
		"voted.", asks, s.BaseURL, token, until)
	_, err := s.Post.Queue(ctx, tx, l)
	return err
}

// closing is when a vote closes, in words.
func closing(f *form.Form) string {
	return f.VoteWindow().Closes.In(f.Zone).Format("15:04 on Monday 2 January 2006")
}

// Enter opens a ballot by a code on paper, as it is typed. Until it is in the box the code
// can be typed again, and what it opened before opens nothing.
func (s *Store) Enter(ctx context.Context, tx *db.Tx, f *form.Form, v Vote, typed, from string) (Token, error) {
	if err := v.open(f, tx.At); err != nil {
		return "", err
	}
	code, ok := vote.ReadWord(typed)
	if !ok || !f.Design.Vote.OnPaper {
		return "", ErrNoCode
	}
	var x struct {
		Voter
		Void  bool
		Fresh bool // nobody has typed it yet
	}
	err := tx.GetContext(ctx, &x, `
		SELECT v.id, v.round_id, v.sheet_id, v.asked_at, v.voted_on, v.pattern_id, h.void_at IS NOT NULL AS void, v.token IS NULL AS fresh
		FROM voter v JOIN vote_sheet h ON h.id = v.sheet_id WHERE v.round_id = $1 AND v.code = $2 FOR UPDATE OF v`, v.RoundID, codeHash(code))
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return "", ErrNoCode
	case err != nil:
		return "", err
	case x.VotedOn != nil:
		return "", ErrCodeUsed
	case x.Void:
		return "", refusal.Over("the office has taken back the sheet that this code stands on").But(
			"ask where you got it")
	}
	token := s.newToken()
	if _, err = tx.ExecContext(ctx, `UPDATE voter SET token = $2, network = $3, asked_at = $4 WHERE id = $1`, x.ID,
		token.voter(), v.network(from), tx.At); err != nil {
		return "", err
	}
	if !x.Fresh {
		return token, nil
	}
	return token, s.watch(ctx, tx, v, "", v.network(from))
}

// NoteTry counts a code that opened nothing.
func (s *Store) NoteTry(ctx context.Context, tx *db.Tx, f *form.Form, v Vote, err error) error {
	switch {
	case errors.Is(err, ErrCodeUsed):
		return tried(ctx, tx, f, v.RoundID, AgainByCode)
	case errors.Is(err, ErrClosed):
		return tried(ctx, tx, f, v.RoundID, TooLate)
	}
	if _, ok := refusal.Of(err); ok {
		return tried(ctx, tx, f, v.RoundID, NoSuchCode)
	}
	return nil
}

func codeHash(code string) []byte { return Token(code).of("code") }

// ByToken finds whose ballot a token opens.
func (s *Store) ByToken(ctx context.Context, q db.Querier, t Token) (x Voter, err error) {
	err = q.GetContext(ctx, &x, `SELECT `+voterColumns+` FROM voter WHERE token = $1`, t.voter())
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNoBallot
	}
	return x, err
}

// Chosen is what a ballot says; in is false before it is in the box.
func (s *Store) Chosen(ctx context.Context, q db.Querier, round int64, t Token) (c vote.Choice, in bool, err error) {
	var raw pq.Int64Array
	err = q.GetContext(ctx, &raw, `SELECT choice FROM ballot WHERE round_id = $1 AND key = $2`, round, t.key())
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return choiceOf(raw), err == nil, err
}

// Cast puts a ballot into the box, or changes the one that is there.
func (s *Store) Cast(ctx context.Context, tx *db.Tx, f *form.Form, v Vote, t Token, c vote.Choice) error {
	if err := v.open(f, tx.At); err != nil {
		return err
	}
	var x Voter
	err := tx.GetContext(
		ctx,
		&x,
		`SELECT `+voterColumns+` FROM voter WHERE token = $1 AND round_id = $2 FOR UPDATE`,
		t.voter(),
		v.RoundID,
	)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNoBallot
	}
	if err != nil {
		return err
	}
	projects, err := s.OnPaper(ctx, tx, v.RoundID)
	if err != nil {
		return err
	}
	e := Election(f, projects)
	if err := e.Fits(c); err != nil {
		return err
	}
	before, _, err := s.Chosen(ctx, tx, v.RoundID, t)
	if err != nil {
		return err
	}
	for i, p := range projects {
		if p.Off != "" && c.Names(i, e.By) && !before.Names(i, e.By) {
			return refusal.Newf("“%s” was taken off the ballot paper", p.Title).But("choose another")
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE voter SET voted_on = COALESCE(voted_on, $2) WHERE id = $1`, x.ID,
		day(f, tx.At)); err != nil {
		return err
	}
	_, err = tx.ExecContext(
		ctx,
		`
		INSERT INTO ballot (round_id, key, receipt, choice, day, pattern_id) VALUES (@round, @key, @receipt, @choice, @day, @pattern)
		ON CONFLICT (round_id, key) DO UPDATE SET choice = @choice, pattern_id = @pattern`,
		db.Named{"round": v.RoundID, "key": t.key(), "receipt": t.Receipt(), "choice": intsOf(c),
			"day": day(f, tx.At), "pattern": x.Pattern},
	)
	return err
}
