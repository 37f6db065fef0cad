package public

import (
	"ulvant/core/say"
	"ulvant/internal/people"
	"ulvant/internal/platform/limit"
	"ulvant/internal/web/kit/site"
)

// try is one try of a password under way: it counts from the start, so that
// many at once do not pass together, and is forgotten when it was right.
type try struct {
	r     *site.Request
	marks []int64
	held  bool // not to be tried at all now
}

// guess begins a try of a password of the account with an address.
func guess(r *site.Request, email string) (*try, error) {
	email = people.Fold(email)
	t := &try{r: r}
	for _, g := range []struct {
		rule limit.Rule
		who  string
	}{{signIns, email + " from " + r.Client()}, {signInClients, r.Client()}, {signInAccounts, email}} {
		mark, ok, err := g.rule.Take(r.Context, r.DB, g.who, r.At)
		if err != nil {
			return nil, err
		}
		if !ok {
			t.held = true
			return t, t.right() // what was marked before this one was not a try
		}
		t.marks = append(t.marks, mark)
	}
	return t, nil
}

// right takes the marks away again.
func (t *try) right() error { return limit.Return(t.r.Context, t.r.DB, t.marks...) }

// wrong leaves them, and keeps what happened for the owner of the account.
func (t *try) wrong(account int64) error {
	return t.r.People.Note(t.r.Context, t.r.Actor(), t.r.At, account, say.WrongPassword)
}

const tooMany = "There were too many wrong tries. Wait a quarter of an hour and try again."

// owns checks the password of who is signed in, as a try of it.
func owns(r *site.Request, password string) (bool, error) {
	t, err := guess(r, r.Account.Email)
	if err != nil {
		return false, err
	}
	if t.held {
		return false, orTooMany(nil, tooMany)
	}
	if !r.People.Verify(password, r.Account.PasswordHash) {
		return false, t.wrong(r.Account.ID)
	}
	return true, t.right()
}
