package say

import (
	"strconv"
	"strings"

	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
)

// GiftAmount is how much of a gift is asked or given: pieces as a number, money as a sum.
func GiftAmount(g form.Gift, units int64, currency string) string {
	if g.InPieces() {
		return strconv.FormatInt(units, 10)
	}
	return money.Format(units, currency)
}

// GiftLines are gifts of a decision, a line each, for letters.
func GiftLines(gifts []form.Gift, units []int64, currency string) string {
	var out []string
	for i, g := range gifts {
		out = append(out, g.Label+": "+GiftAmount(g, units[i], currency))
	}
	return strings.Join(out, "\n")
}

// nothingElse is what an offer without a sum is of.
const nothingElse = "what you applied for"

// AndGifts adds gifts to what is awarded, in one line.
func AndGifts(sum string, gifts []form.Gift, units []int64, currency string) string {
	lines := strings.ReplaceAll(GiftLines(gifts, units, currency), "\n", "; ")
	switch {
	case lines == "":
		return sum
	case sum == "" || sum == nothingElse:
		return lines
	}
	return sum + "; " + lines
}

// GivenBesides says in a letter what is given besides the money.
func GivenBesides(lines string, alone bool) string {
	if alone {
		return "You are given:\n\n" + lines
	}
	return "Besides, you are given:\n\n" + lines
}

// fewApply is below which a donor is not told how many: among so few they would be
// known.
const fewApply = 5

// Applied says how many applied for an award, to whoever gives it.
func Applied(n int) string {
	switch {
	case n == 0:
		return "nobody has applied"
	case n < fewApply:
		return "fewer than five have applied"
	}
	return phrase.Count(int64(n), "person has applied", "people have applied")
}
