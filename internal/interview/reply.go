package interview

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/invitation"
	"ulvant/internal/platform/mail"
)

// host of the addresses that mails come back to.
func (s *Store) host() string { return s.Mail[strings.IndexByte(s.Mail, '@')+1:] }

// answersAt is the organiser’s address in the invitation of a case: the same through all
// its changes, as calendar programs want it, and known to whoever was invited alone.
func (s *Store) answersAt(entry int64) string {
	if !s.Takes {
		return s.Mail
	}
	return mail.AnswersAt(s.token(entry), s.host())
}

// token of an entry’s address: its number, and what shows that it was written here.
func (s *Store) token(entry int64) string {
	m := hmac.New(sha256.New, s.Key)
	fmt.Fprintf(m, "interview answer %d", entry)
	return strconv.FormatInt(entry, 10) + "-" + hex.EncodeToString(m.Sum(nil)[:10])
}

// mostComment is how much of what somebody wrote beside their answer is kept, in bytes.
const mostComment = 500

// Replied takes what a calendar program answers to an invitation. An answer to a time that
// has changed since, one that leaves it open, and what is no answer change nothing.
func (s *Store) Replied(ctx context.Context, at time.Time, token string, raw []byte) error {
	number, _, _ := strings.Cut(token, "-")
	entry, err := strconv.ParseInt(number, 10, 64)
	if err != nil || !hmac.Equal([]byte(s.token(entry)), []byte(token)) {
		return mail.ErrNoReport
	}
	text, err := mail.CalendarIn(raw)
	if err != nil {
		return mail.ErrNoReport
	}
	r, err := invitation.ParseReply(text)
	if err != nil || r.Status != invitation.Accepted && r.Status != invitation.Declined {
		return mail.ErrNoReport
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		c, err := s.Cases.ByEntry(ctx, tx, entry)
		if err != nil {
			return err
		}
		m, err := s.Of(ctx, tx, entry)
		if err != nil || m.SlotID == nil || m.Sequence != r.Sequence || s.uid(entry, m) != r.UID {
			return mail.ErrNoReport
		}
		comes := r.Status == invitation.Accepted
		if comes && m.Reply == Comes || !comes && m.Reply == Cannot { // said twice
			return nil
		}
		why := strings.TrimSpace(r.Comment)
		if len(why) > mostComment {
			why = strings.ToValidUTF8(why[:mostComment], "")
		}
		if why == "" && !comes {
			why = "Declined in their calendar, without a word."
		}
		tx.By = db.Account(c.LeadID) // it is their answer, by the address that they alone know
		if err := s.Answer(ctx, tx, c, comes, why); err != nil {
			if _, said := refusal.Of(err); said { // the interview is over, or off
				return mail.ErrNoReport
			}
			return err
		}
		return nil
	})
}

// uid of an invitation, the same through all its changes.
func (s *Store) uid(entry int64, m Meeting) string {
	return fmt.Sprintf("interview-%d-%d@%s", entry, m.InvitedAt.Unix(), s.host())
}
