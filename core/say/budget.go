package say

import (
	"fmt"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/form"
	"ulvant/core/money"
)

// budgetLine says what is wrong with one line of a budget, and the sum that
// would mend it.
func budgetLine(f *form.Form, o form.Obstacle) (what, remedy string) {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	name := quoted(o.Name, "A line without a name")
	switch o.Code {
	case form.CodeBudgetLine:
		return unread(f, o, name)
	case form.CodeBudgetChoice:
		switch o.Place.Column {
		case form.ColHeading:
			return name + " has no heading", "Choose one."
		case form.ColPeriod:
			return name + " has no year", "Say in which year it is spent."
		case form.ColPartner:
			return name + " does not say whose it is", "Say who spends it."
		case form.ColUnit:
			return name + " has no unit", "Say what there are so many of: days, metres, pieces."
		case form.ColWhen:
			return name + " does not say when it is first spent", "Give the day, such as 1 July 2027."
		}
		return name + " does not say as what it is asked", "Choose one."
	case form.CodeBudgetOver:
		return fmt.Sprintf("%s asks %s from us and costs %s", name, sum(o.Have), sum(o.Limit)),
			fmt.Sprintf("Take %s off what you ask, or make it cost %s.", sum(o.Have-o.Limit), sum(o.Have))
	case form.CodeBudgetPayer:
		return fmt.Sprintf("%s: who pays the other %s?", name, sum(o.Have)), "Choose who pays it."
	case form.CodeBudgetDivide:
		if o.Have > o.Limit {
			return fmt.Sprintf("%s: its parts come to %s, it costs %s", name, sum(o.Have), sum(o.Limit)),
				fmt.Sprintf("Take %s off, or make it cost %s.", sum(o.Have-o.Limit), sum(o.Have))
		}
		return fmt.Sprintf("%s: nobody is named for %s of its %s", name, sum(o.Limit-o.Have), sum(o.Limit)),
			"Say who pays it."
	case form.CodeBudgetValue:
		return fmt.Sprintf("%s: one is put at %s, “%s” is worth %s here", name, sum(o.Have), o.Detail, sum(o.Limit)),
			"Write " + sum(o.Limit) + ", or leave it empty."
	case form.CodeBudgetEarly:
		return name + " is spent before " + o.Day.Words(), "Move it to " + o.Day.Words() +
			" or later; nothing before that day can be paid."
	case form.CodeBudgetSupplier:
		return name + " names no supplier", "Say who would be paid " + sum(o.Have) + "."
	}
	missing := o.Limit - o.Have
	return fmt.Sprintf("%s has %d of %d quotes", name, o.Have, o.Limit),
		fmt.Sprintf("From %s on we want %d: attach %d more.",
			o.Detail, o.Limit, missing)
}

// unread says what of a line cannot be read, or is missing.
func unread(f *form.Form, o form.Obstacle, name string) (what, remedy string) {
	label := string(o.Place.Column)
	if q := f.Question(o.Place.Question); q != nil {
		label = form.LabelOf(form.BudgetColumns(q), label)
	}
	asSum := "Write a sum such as 1,250 or 1,250.50."
	if strings.TrimSpace(o.Detail) == "" {
		switch o.Place.Column {
		case form.ColItem:
			return name + " cannot be added up", "Say in a few words what the money is for."
		case form.ColQuantity:
			return name + " comes to more than can be kept", "Write a smaller number, or a smaller sum for each."
		}
		return fmt.Sprintf("%s: nothing stands under “%s”", name, label), asSum
	}
	as, how := "a sum of money", asSum
	switch o.Place.Column {
	case form.ColQuantity:
		as, how = "a number", "Write a number such as 12 or 1.5."
	case form.ColWhen:
		as, how = "a day", "Write it as 1 July 2027 or 2027-07-01."
	}
	return fmt.Sprintf("%s: “%s” under “%s” cannot be read as %s", name, o.Detail, label, as), how
}

// budgetWhole says what is wrong with a budget as a whole.
func budgetWhole(f *form.Form, o form.Obstacle) (what, remedy string) {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	either := func(less, more string, m budget.Mend) string {
		var ways []string
		if m.Less > 0 {
			ways = append(ways, fmt.Sprintf(less, sum(m.Less)))
		}
		if m.More > 0 {
			ways = append(ways, fmt.Sprintf(more, sum(m.More)))
		}
		if len(ways) == 0 {
			return "Change one or the other."
		}
		s := strings.Join(ways, ", or ")
		return strings.ToUpper(s[:1]) + s[1:] + "."
	}
	switch o.Code {
	case form.CodeBudgetHuge:
		return "The budget comes to more than can be kept", "Look for a figure with too many digits."
	case form.CodeBudgetRequest:
		asks, off := "Budget asks "+sum(o.Have), o.Limit-o.Have
		if o.Name != "" {
			asks += " as “" + o.Name + "”"
		}
		if off > 0 {
			return fmt.Sprintf("%s, you asked for %s", asks, sum(o.Limit)),
				fmt.Sprintf("The lines fall %s short of the request. Change one or the other.", sum(off))
		}
		return fmt.Sprintf("%s, you asked for %s", asks, sum(o.Limit)),
			fmt.Sprintf("The lines come to %s more than the request. Change one or the other.", sum(-off))
	case form.CodeBudgetMatch:
		return fmt.Sprintf("Others pay %s; at least %s is needed", sum(o.Have), sum(o.Limit)),
			fmt.Sprintf("Others must pay at least %s%% of the whole cost, not of the request. ", o.Name) +
				either("ask us for %s less that others pay instead", "add costs of %s that others pay", o.Mend)
	case form.CodeBudgetMatchAsked:
		return fmt.Sprintf("Others pay %s; at least %s is needed", sum(o.Have), sum(o.Limit)),
			fmt.Sprintf("Others must pay at least %s%% of what you ask from us, not of the whole cost. ", o.Name) +
				either("ask us for %s less that others pay instead", "add costs of %s that others pay", o.Mend)
	case form.CodeBudgetLeast:
		return fmt.Sprintf("“%s”: %s is less than the least, %s", o.Name, sum(o.Have), sum(o.Limit)), fmt.Sprintf(
			"Ask for %s more of it, or for none.", sum(o.Limit-o.Have))
	case form.CodeBudgetMost:
		return fmt.Sprintf("“%s”: %s is more than the most, %s", o.Name, sum(o.Have), sum(o.Limit)), fmt.Sprintf(
			"Ask for %s less of it.", sum(o.Have-o.Limit))
	}
	percent, of, _ := strings.Cut(o.Detail, " ")
	if form.CapOf(of) == form.OfAsked {
		return fmt.Sprintf("“%s” asks %s; at most %s is allowed", o.Name, sum(o.Have), sum(o.Limit)),
			fmt.Sprintf("It may take at most %s%% of what you ask from us. ", percent) +
				either("ask for %s less there", "for %s more elsewhere", o.Mend)
	}
	return fmt.Sprintf("“%s” costs %s; at most %s is allowed", o.Name, sum(o.Have), sum(o.Limit)),
		fmt.Sprintf("It may take at most %s%% of %s. ", percent, Of(form.CapOf(of))) +
			either("spend %s less there", "%s more elsewhere", o.Mend)
}

// aidCeiling says that public aid goes beyond its ceiling.
func aidCeiling(f *form.Form, o form.Obstacle) (what, remedy string) {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	return fmt.Sprintf("Public aid since %s, %s, and the %s you ask come to %s; the ceiling is %s", o.Day.Words(), o.Name,
			o.Detail, sum(o.Have), sum(o.Limit)),
		fmt.Sprintf("Nothing above the ceiling can be given, not even a part of it: ask for %s less, or look whether a date or a "+
			"sum is wrong.", sum(o.Have-o.Limit))
}

// Of says of what a heading's cap is a share.
func Of(of form.CapOf) string {
	switch of {
	case form.OfCost:
		return "the whole cost"
	case form.OfDirect:
		return "the cost without indirect costs"
	}
	return "what you ask"
}
