package letter

import (
	"cmp"
	"slices"
	"strings"
	"unicode/utf8"
)

// Made is a letter as it will leave, with the particulars of its case that stand in it.
type Made struct {
	Kind          string // letters of one kind are held against each other
	Subject, Body string
	Name          string   // of whom it goes to
	Values        []string // the case's own particulars: title, number, sums
	Reasoned      bool     // it should give a reason
	Reasons       string   // what it gives; "" for none
}

// Bounds of what is not odd, in characters.
const (
	short = 120
	long  = 4000
)

// Skeleton is a text without a case's own particulars, the longest taken out first.
func Skeleton(text string, values []string) string {
	values = slices.Clone(values)
	slices.SortFunc(values, func(a, b string) int { return cmp.Or(len(b)-len(a), strings.Compare(a, b)) })
	for _, v := range values {
		if strings.TrimSpace(v) != "" {
			text = strings.ReplaceAll(text, v, "…")
		}
	}
	return text
}

// Odd says of each letter what is odd about it, among the others of its kind; nothing
// for most. What nobody looks at before it leaves goes wrong in these ways (common
// practice, no source).
func Odd(list []Made) [][]string {
	skeletons := make([]string, len(list))
	count, most := map[string]map[string]int{}, map[string]string{}
	for i, l := range list {
		s := Skeleton(l.Subject+"\n"+l.Body, append([]string{l.Name, l.Reasons}, l.Values...))
		skeletons[i] = s
		if count[l.Kind] == nil {
			count[l.Kind] = map[string]int{}
		}
		count[l.Kind][s]++
		if n := count[l.Kind][s]; n > count[l.Kind][most[l.Kind]] || n == count[l.Kind][most[l.Kind]] && s < most[l.Kind] {
			most[l.Kind] = s
		}
	}
	out := make([][]string, len(list))
	for i, l := range list {
		says := func(odd bool, what string) {
			if odd {
				out[i] = append(out[i], what)
			}
		}
		n := utf8.RuneCountInString(l.Body)
		says(strings.TrimSpace(l.Name) == "", "it greets nobody by name")
		says(strings.TrimSpace(l.Name) != "" && !strings.Contains(l.Body, l.Name),
			"the name of whoever gets it does not stand in it")
		says(strings.Contains(l.Body, "{{") || strings.Contains(l.Subject, "{{"), "a field of the text is not filled in")
		says(l.Reasoned && strings.TrimSpace(l.Reasons) == "", "it gives no reason")
		says(n > long, "it is very long")
		says(n < short, "it is very short")
		says(skeletons[i] != most[l.Kind], "its text differs from the others")
	}
	return out
}
