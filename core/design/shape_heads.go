package design

import "ulvant/core/form"

// Things of a design that stand in no list, and are nothing where they are left empty.

// Placing is how awards are placed.
var Placing = Thing{Name: "placing", Title: "name", Members: []Member{
	{Name: "placing", Label: "Placing of awards", As: Group, Sub: []Member{
		{Name: "need", Label: "What says how much somebody needs", As: Choose, From: "numeric"},
		{Name: "merit", Label: "What merit goes by", As: Choose, From: "numeric",
			Help: "The marks of the readers, unless something else is chosen."},
		{Name: "most", Label: "Awards of one person, at most", As: Whole, Help: "Nothing for any number."},
		{Name: "cap", Label: "The money of one person is held to", As: Choose,
			Words: words("", "nothing", string(form.UpToAsked), "what they ask for", string(form.UpToNeed), "what they need")},
		{Name: "wish", Label: "Points of 100 by which a first wish is worth more", As: Whole,
			Help: "A second wish half of it, a third a third."},
		{Name: "order", Label: "The awards are prizes in order", As: Tick,
			Help: "The first goes to whoever is worth most, and so on down the list."}}},
}}

// Vote is the public vote.
var Vote = Thing{Name: "vote", Title: "name", Members: []Member{
	{Name: "vote", Label: "Public vote", As: Group, Sub: []Member{
		{Name: "asks", Label: "The question on the ballot paper", As: Line, Help: "Such as “Which of these shall be built?”"},
		{Name: "among", Label: "Who stands on it", As: Choose,
			Words: words("", "all that were found eligible and were not turned down since",
				string(form.AmongChosen), "those invited on, awarded or on the reserve list")},
		{Name: "shows", Label: "What the public sees of each", As: Many, From: "anything",
			Help: "Answers and pictures; somebody lets each through before anybody sees it."},
		{Name: "agreed", Label: "Question in which applicants agree to it", As: Choose, From: "agreeing",
			Help: "Whoever does not say yes stands on no ballot paper."},
		{Name: "count", Label: "Ballots are counted by", As: Choose,
			Help: "Fixed, as all of this, when the ballot paper is laid out.", Words: words("", "most votes",
				string(form.CountShares),
				"equal shares of a budget", string(form.CountRanked), "places, as Borda counts them", string(form.CountPoints),
				"points that each voter gives out")},
		{Name: "most", Label: "Cases one ballot may name, at most", As: Whole,
			Help: "Nothing for any number; where points are given, how many each voter gives."},
		{Name: "named", Label: "How many the vote names", As: Whole,
			Help: "Whoever is tied with the last of them is named too; a budget needs no number."},
		{Name: "budget", Label: "Budget, where shares are equal", As: Amount},
		{Name: "cost", Label: "Question that says what a project costs", As: Choose, From: "sums",
			Help: "What is asked of the fund, unless something else is chosen."},
		{Name: "utility", Label: "What a project is to whoever approves of it", As: Choose,
			Words: words("", "every project alike", string(form.GoodOfCost), "what it costs")},
		{Name: "rest", Label: "What equal shares leave", As: Choose,
			Words: words("", "is not given", string(form.RestByVotes), "goes to what still fits, the most votes first")},
		{Name: "byMail", Label: "One ballot for each confirmed mail address", As: Tick},
		{Name: "onPaper", Label: "One ballot for each code given out on paper", As: Tick},
		{Name: "declares", Label: "What each voter declares", As: List, Help: "A line each, such as “I am 14 or older.”"},
		{Name: "days", Label: "Days that it is promised to be open for, at least", As: Whole}}},
}}

// Offering is how what is awarded is accepted.
var Offering = Thing{Name: "offer", Title: "name", Members: []Member{
	{Name: "offer", Label: "What is awarded is accepted or declined", As: Group, Sub: []Member{
		{Name: "days", Label: "Working days after the letter within which it is answered", As: Whole,
			Help: "Nothing: it is theirs when they are told. What is not answered in time lapses, and is free for others."},
		{Name: "promises", Label: "What whoever accepts promises", As: List,
			Help: "A line each, ticked one by one, such as “I send a report within a year.”"}}},
}}
