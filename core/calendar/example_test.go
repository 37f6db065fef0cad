package calendar_test

import (
	"fmt"

	"ulvant/core/calendar"
)

// Months end where they end: a month after 31 January is the last of February.
func ExampleDate_AddMonths() {
	fmt.Println(calendar.NewDate(2027, 1, 31).AddMonths(1).Words())
	fmt.Println(calendar.NewDate(2028, 1, 31).AddMonths(1).Words())
	// Output:
	// 28 February 2027
	// 29 February 2028
}

// A date is read as people write it; where day and month could be either, the
// day comes first.
func ExampleParseDate() {
	for _, typed := range []string{"1 July 2027", "2027-07-01", "3/4/2027", "31 June 2027"} {
		d, ok := calendar.ParseDate(typed)
		fmt.Println(typed, "→", d, ok)
	}
	// Output:
	// 1 July 2027 → 2027-07-01 true
	// 2027-07-01 → 2027-07-01 true
	// 3/4/2027 → 2027-04-03 true
	// 31 June 2027 →  false
}
