package register

import (
	"encoding/json"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/export"
	"ulvant/core/money"
	"ulvant/core/phrase"
)

// Cell is what is known of one case in one column; the zero Cell is blank.
type Cell struct {
	Text string   // words, the key of a choice, a date, a non-answer
	List []string // of Several
	// Number is in plain digits, money in minor units; "" for none.
	Number string
	At     time.Time
	Non    bool // Text is an honest non-answer, such as "not known"
}

// Blank reports that nothing is known.
func (c Cell) Blank() bool {
	return c.Text == "" && c.List == nil && c.Number == "" && c.At.IsZero()
}

// ReadCell reads a value as it is kept: see Facts. Moments are RFC 3339.
func (col Column) ReadCell(raw json.RawMessage) Cell {
	text := strings.TrimSpace(string(raw))
	switch {
	case text == "" || text == "null":
		return Cell{}
	case text[0] == '{':
		var n struct{ Non string }
		_ = json.Unmarshal(raw, &n) // what is kept was written by Facts
		return Cell{Text: n.Non, Non: true}
	case text[0] == '[':
		var c Cell
		_ = json.Unmarshal(raw, &c.List)
		return c
	case text[0] != '"':
		return Cell{Number: text}
	}
	var s string
	_ = json.Unmarshal(raw, &s)
	if col.Type == Moment {
		if at, err := time.Parse(time.RFC3339Nano, s); err == nil {
			return Cell{At: at}
		}
	}
	return Cell{Text: s}
}

// Say writes a cell as it stands in the list. now is for moments: those of today
// have their hour.
func (col Column) Say(c Cell, currency string, zone *time.Location, now time.Time) string {
	switch {
	case c.Non:
		return c.Text
	case c.List != nil:
		said := make([]string, len(c.List))
		for i, v := range c.List {
			said[i] = col.Label(v)
		}
		return strings.Join(said, ", ")
	case c.Number != "":
		return col.Figure(c.Number, currency)
	case !c.At.IsZero():
		return moment(c.At, zone, now)
	case col.Type == Day && c.Text != "":
		return day(c.Text)
	case col.Type == Choice:
		return col.Label(c.Text)
	}
	return c.Text
}

// Figure writes a number of the column, or a sum or mean of several.
func (col Column) Figure(plain, currency string) string {
	switch col.Type {
	case Money:
		if whole, _, _ := strings.Cut(plain, "."); whole != "" {
			if n, err := strconv.ParseInt(whole, 10, 64); err == nil {
				return money.Format(n, currency)
			}
		}
	case Share:
		if f, err := strconv.ParseFloat(plain, 64); err == nil {
			return strconv.FormatFloat(f, 'f', 0, 64) + "%"
		}
	case Number:
		if f, err := strconv.ParseFloat(plain, 64); err == nil {
			text := strconv.FormatFloat(f, 'f', 2, 64)
			return strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
		}
	}
	return plain
}

func moment(at time.Time, zone *time.Location, now time.Time) string {
	local := at.In(zone)
	switch days := int(calendar.DateOf(now, zone) - calendar.DateOf(at, zone)); {
	case days == 0:
		return "today " + local.Format("15:04")
	case days == 1:
		return "yesterday"
	case days > 1 && days < 10:
		return phrase.Count(int64(days), "day", "days") + " ago"
	case local.Year() == now.In(zone).Year():
		return local.Format("2 Jan 15:04")
	}
	return local.Format("2 Jan 2006")
}

// Export is the cell as it is given out: money in whole units of the currency,
// moments as RFC 3339 in the zone, choices by their labels.
func (col Column) Export(c Cell, currency string, zone *time.Location) export.Cell {
	switch {
	case c.Number != "" && col.Type == Money:
		n, err := strconv.ParseInt(c.Number, 10, 64)
		if err != nil {
			return export.Text(c.Number)
		}
		return export.Decimal(money.Exact(n, currency))
	case c.Number != "":
		return export.Decimal(c.Number)
	case !c.At.IsZero():
		return export.At(c.At.In(zone))
	case col.Type == Day && !c.Non && c.Text != "":
		return export.Day(c.Text)
	}
	return export.Text(col.Say(c, currency, zone, c.At))
}

// Exported is the column as it is given out.
func (col Column) Exported() export.Column {
	t := map[Type]export.Type{Number: export.Numbers, Share: export.Numbers, Money: export.Numbers, Day: export.Days,
		Moment: export.Moments}[col.Type]
	return export.Column{Key: strings.NewReplacer(".", "_", "-", "_").Replace(col.Key), Heading: col.Heading, Type: t}
}
