package hiding

import (
	"slices"
	"strings"
	"testing"
)

// Texts as people write them, and what those who judge may read of them.
func TestIn(t *testing.T) {
	n := Of([]Person{{Name: "Imre Calloway", Phones: []string{"+35315550142"}}, {Name: "Dónal Ó Dálaigh"},
		{Name: "Rose Mac an t-Saoir"},
		{Name: "Corvoe Crofters’ Common", Body: true}, {Name: "Li Wu"}, {Name: "", Body: true}})
	for _, c := range []struct{ text, want string }{
		{"", ""},
		{"The reed beds.", "The reed beds."},
		{"I am Imre Calloway, and I plant reed.", "I am ▮▮▮, and I plant reed."},
		{"Calloway, Imre", "▮▮▮"},
		{"IMRE CALLOWAY", "▮▮▮"},
		{"imre calloway", "▮▮▮"},
		{"Imre’s plan, and Calloway's boat", "▮▮▮’s plan, and ▮▮▮'s boat"},
		{"imre is no word here", "imre is no word here"}, // a small letter is taken for another word
		{"Donal O'Dalaigh will help; so will Ó Dálaigh’s son.", "▮▮▮ will help; so will Ó ▮▮▮’s son."},
		{"a rose by the door, and Rose at the door", "a rose by the door, and ▮▮▮ at the door"},
		{"the Corvoe Crofters' Common of Corvoe", "the ▮▮▮ of Corvoe"},
		{"Common land of crofters", "Common land of crofters"},
		{"Li Wu plays; Wu Li too", "▮▮▮ plays; ▮▮▮ too"},
		{"Wu plays", "Wu plays"}, // two letters alone say too little
		{"Write to imre.calloway@corvoe.example, or anybody@else.example.", "Write to ▮▮▮, or ▮▮▮."},
		{"https://calloway.example/reed and https://reed.example/", "▮▮▮ and https://reed.example/"},
		{"see www.corvoe-crofters-common.example.", "see ▮▮▮"},
		{"Ring 01 555 0142 or 01 555 0143.", "Ring ▮▮▮ or 01 555 0143."},
		{"In 1987 we paid 1,555,0142 for it", "In 1987 we paid 1,555,0142 for it"},
		{"Callowayside is a place", "Callowayside is a place"},
		{"Jean-Imre came", "Jean-▮▮▮ came"},
		{"Calloway\nCalloway", "▮▮▮"},
		{"Imre, Calloway", "▮▮▮"},
	} {
		if got := n.In(c.text); got != c.want {
			t.Errorf("%q: %q, want %q", c.text, got, c.want)
		}
	}
	if got := (Names{}).In("Imre Calloway, a@b.example"); got != "Imre Calloway, a@b.example" || (Names{}).Any() {
		t.Errorf("nobody is hidden: %q", got)
	}
}

// Names in the words of a file, which are not changed but said.
func TestFound(t *testing.T) {
	n := Of([]Person{{Name: "Imre Calloway", Phones: []string{"+35315550142"}}, {Name: "Li Wu"},
		{Name: "Corvoe Crofters’ Common", Body: true}})
	for _, c := range []struct {
		text string
		want []string
	}{
		{"", nil},
		{"The reed beds of Corvoe, by nobody@else.example", nil},
		{"By Imre Calloway. Imre Calloway drew it.", []string{"Imre Calloway"}},
		{"Calloway drew it; ask Imre", []string{"Calloway", "Imre"}},
		{"for the Corvoe Crofters’ Common, 01 555 0142, imre.calloway@corvoe.example",
			[]string{"Corvoe Crofters’ Common", "01 555 0142", "imre.calloway@corvoe.example"}},
		{"I m r e C a l l o w a y", []string{"imre calloway"}},
		{"the crofters of that common, calloway", nil},
		{"Li Wu", []string{"Li Wu"}},
		{"a lily wuthers", nil}, // so few letters are no run
	} {
		if got := n.Found(c.text); !slices.Equal(got, c.want) {
			t.Errorf("%q: %q, want %q", c.text, got, c.want)
		}
	}
}

// Whatever stands around a name, it is gone, and what is gone twice changes nothing.
func FuzzIn(f *testing.F) {
	f.Add("a ", " b")
	f.Add("Calloway", "Imre")
	f.Add("x@", ".y z")
	f.Add("‘", "’s")
	n := Of([]Person{{Name: "Imre Calloway"}})
	f.Fuzz(func(t *testing.T, before, after string) {
		text := before + " Imre Calloway " + after
		got := n.In(text)
		if strings.Contains(got, "Calloway") && !strings.Contains(before+after, "Calloway") {
			t.Errorf("%q: %q", text, got)
		}
		if again := n.In(got); again != got {
			t.Errorf("%q: %q, then %q", text, got, again)
		}
	})
}
