package design

import "ulvant/core/form"

// ofMoney are the members of kinds that add up money.
var ofMoney = map[string]Member{
	"costing": {Name: "costing", Label: "What its lines hold", As: Group, Sub: []Member{
		{Name: "quantities", Label: "How many, of what, at how much each", As: Tick},
		{Name: "units", Label: "Units to choose from", As: Options, Help: "One on each line; none: any word will do."},
		{Name: "sources", Label: "Who pays, a column for each", As: Many, Words: sources(),
			Help: "None: one is chosen who pays the rest of a line."},
		{Name: "periods", Label: "Years", As: Options, Help: "One on each line, in their order."},
		{Name: "partners", Label: "Partners who spend it", As: Options, Help: "One on each line."},
		{Name: "gives", Label: "What may be asked for beside money", As: Many, From: "gifts"},
		{Name: "dated", Label: "The day on which it is first spent", As: Tick,
			Help: "Nothing may be spent before the limit “not before”."},
		{Name: "quotes", Label: "Quotes", As: Group, Sub: []Member{
			{Name: "above", Label: "Wanted for lines that cost as much, or more", As: Amount},
			{Name: "count", Label: "How many", As: Whole}, {Name: "slot", Label: "Put in at", As: Choose, From: "slots"},
			{Name: "headings", Label: "Only under the headings", As: List, Help: "A heading on each line; none: under all."}}},
		{Name: "indirect", Label: "Indirect costs", As: Group, Sub: []Member{
			{Name: "rate", Label: "Rate, in percent", As: Rate},
			{Name: "bases", Label: "Headings they are reckoned on", As: Bases,
				Help: "A heading on each line; “heading = partner 50,000” counts each partner up to that, “heading = line 5,000” each line."},
			{Name: "ofAsked", Label: "Reckoned on what is asked, not on what it costs", As: Tick},
			{Name: "byOwn", Label: "The applicant bears them", As: Tick}}}}},
	"aid": {Name: "aid", Label: "How aid counts", As: Group, Sub: []Member{
		{Name: "years", Label: "Over so many years", As: Whole},
		{Name: "financial", Label: "Whole financial years, the one of the grant among them, not a period that rolls",
			As: Tick},
		{Name: "begins", Label: "A financial year begins on", As: Line,
			Help: "Month and day, such as 04-01; 01-01 unless set."},
		{Name: "lenient", Label: "What was given on the very day so many years before counts no more", As: Tick},
		{Name: "ceiling", Label: "Ceiling of what was given and what is asked together", As: Amount},
		{Name: "day", Label: "Day of the grant", As: Choose, From: "moments"},
		{Name: "request", Label: "Counts with the request in", As: Choose, From: "sums"}}},
	"declared": {Name: "declared", Label: "Compared with", As: Group, Sub: []Member{
		{Name: "of", Label: "The table of people and years", As: Choose, From: "years"},
		{Name: "tolerance", Label: "They agree within, in percent of what was declared", As: Whole}}},
}

func sources() []form.Option {
	var out []form.Option
	for _, s := range form.SourceColumns {
		out = append(out, form.Option{Key: s.Key, Label: s.Label})
	}
	return out
}
