package ballot

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"net/netip"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/vote"
	"ulvant/internal/platform/db"
)

// pace of one network: twelve at once, as a class or a family would, then one in two
// seconds. A hall of 300 with one line is through in ten minutes.
var pace = vote.Pace{Every: 2 * time.Second, Burst: 12}

// houseOf is the part of a network address that one house has.
func houseOf(from string) string {
	a, err := netip.ParseAddr(from)
	if err != nil {
		return from
	}
	bits := 64
	if a = a.Unmap(); a.Is4() {
		bits = 24
	}
	p, _ := a.Prefix(bits)
	return p.String()
}

// Turn is when somebody's try has its turn, as they bring it back.
type Turn struct {
	At   time.Time // zero: they have it now
	Sign string
}

// sign says that a try for this had its turn at that time: whoever waited does not wait
// again, and nobody waits in another's stead.
func (s *Store) sign(v Vote, what string, at time.Time) string {
	h := hmac.New(sha256.New, s.Key)
	fmt.Fprintf(h, "turn:%d:%d:%s", v.RoundID, at.Unix(), what)
	return strconv.FormatInt(at.Unix(), 10) + "." + base64.RawURLEncoding.EncodeToString(h.Sum(nil)[:15])
}

// Wait gives a try its turn: the zero Turn when it may go on. what is what is asked for:
// an address, a code. waited is what an earlier answer gave; "" for the first try.
func (s *Store) Wait(ctx context.Context, tx *db.Tx, v Vote, f *form.Form, from, what, waited string) (Turn, error) {
	if unix, _, ok := strings.Cut(waited, "."); ok {
		n, err := strconv.ParseInt(unix, 10, 64)
		at := time.Unix(n, 0)
		if err == nil && hmac.Equal([]byte(waited), []byte(s.sign(v, what, at))) && tx.At.Before(at.Add(time.Hour)) {
			if tx.At.Before(at) {
				return Turn{at, waited}, nil
			}
			return Turn{}, nil
		}
	}
	var due time.Time
	network := v.network(from)
	// the row is made first, so that those who come at once wait for each other
	if err := tx.GetContext(ctx, &due, `
		INSERT INTO vote_pace (round_id, network, due) VALUES ($1, $2, $3)
		ON CONFLICT (round_id, network) DO UPDATE SET due = vote_pace.due RETURNING due`, v.RoundID, network, tx.At); err != nil {
		return Turn{}, err
	}
	turn, due := pace.Turn(due, tx.At)
	if _, err := tx.ExecContext(ctx, `UPDATE vote_pace SET due = $3 WHERE round_id = $1 AND network = $2`, v.RoundID,
		network, due); err != nil {
		return Turn{}, err
	}
	if !turn.After(tx.At) {
		return Turn{}, nil
	}
	turn = turn.Truncate(time.Second).Add(time.Second)
	return Turn{turn, s.sign(v, what, turn)}, tried(ctx, tx, f, v.RoundID, Waited)
}
