// Package ledger keeps where money stands by double entry: every entry moves one
// sum from one account to another, none is ever changed or taken out, and what
// is put right is put right by another entry. So the accounts together are always
// nothing, which is the check (Luca Pacioli, Summa de arithmetica, 1494, tractatus
// XI: no debit without a credit of the same sum).
package ledger

import (
	"slices"
	"time"
)

// Account is a place where money stands, or is owed.
type Account string

// The accounts of fees. A sum in an account is debits less credits: what is owed
// to the funder and what it has are above 0, what it has earned is below.
const (
	Applicants Account = "applicants"   // what they owe; below 0 what is owed to them
	Desk       Account = "payment desk" // what the desk holds for the funder
	Bank       Account = "bank"         // what was paid by transfer
	Earned     Account = "fees"
)

// Accounts lists them.
var Accounts = []Account{Applicants, Desk, Bank, Earned}

// Kind of an entry.
type Kind string

// The kinds.
const (
	Charged   Kind = "charged"
	LetOff    Kind = "let off"
	Paid      Kind = "paid"
	PaidIn    Kind = "paid in" // by transfer
	GivenBack Kind = "given back"
	SentBack  Kind = "sent back" // by transfer
)

// Kinds lists them.
var Kinds = []Kind{Charged, LetOff, Paid, PaidIn, GivenBack, SentBack}

// Entry of the ledger. Ref names the event it records, once in a ledger: the same
// event twice is one entry.
type Entry struct {
	Kind   Kind
	Ref    string
	Amount int64 // minor units, above 0
	At     time.Time
}

// Sides are the accounts an entry of a kind is debited and credited to.
func (k Kind) Sides() (debit, credit Account) {
	switch k {
	case Charged:
		return Applicants, Earned
	case LetOff:
		return Earned, Applicants
	case Paid:
		return Desk, Applicants
	case PaidIn:
		return Bank, Applicants
	case GivenBack:
		return Applicants, Desk
	case SentBack:
		return Applicants, Bank
	}
	return "", ""
}

// Book is what entries come to.
type Book struct {
	Sums  map[Account]int64
	Kinds map[Kind]int64
}

// Sum the entries by account and by kind.
func Sum(entries []Entry) Book {
	b := Book{map[Account]int64{}, map[Kind]int64{}}
	for _, e := range entries {
		b.Add(e.Kind, e.Amount)
	}
	return b
}

// Add a sum of entries of one kind.
func (b Book) Add(k Kind, amount int64) {
	debit, credit := k.Sides()
	b.Sums[debit] += amount
	b.Sums[credit] -= amount
	b.Kinds[k] += amount
}

// Even reports that the accounts come to nothing together, and that each is what
// its entries say.
func (b Book) Even() bool {
	total := int64(0)
	for a, n := range b.Sums {
		if !slices.Contains(Accounts, a) {
			return false
		}
		total += n
	}
	k := b.Kinds
	return total == 0 && b.Sums[Earned] == k[LetOff]-k[Charged] && b.Sums[Desk] == k[Paid]-k[GivenBack] &&
		b.Sums[Bank] == k[PaidIn]-k[SentBack] &&
		b.Sums[Applicants] == k[Charged]-k[LetOff]-k[Paid]-k[PaidIn]+k[GivenBack]+k[SentBack]
}
