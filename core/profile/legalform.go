package profile

// LegalForm is what an organisation is by law. It says which papers it shows
// before the office looks it over (common practice of funders, no source).
type LegalForm string

// The legal forms.
const (
	Charity LegalForm = "charity"
	Company LegalForm = "company"
	Society LegalForm = "society"
	Group   LegalForm = "group"
	Public  LegalForm = "public"
)

// LegalForms lists them as they are offered.
var LegalForms = []LegalForm{Charity, Company, Society, Group, Public}

// Label of a legal form.
func (f LegalForm) Label() string {
	return map[LegalForm]string{Charity: "A charity or foundation", Company: "A company or cooperative",
		Society: "A registered society", Group: "A group that no register knows",
		Public: "A public body, a school, a church"}[f]
}

// Paper is one that an organisation shows. Key stays with its file.
type Paper struct{ Key, Label, Help string }

var (
	statutes = Paper{"statutes", "Statutes or governing document", "As they are in force, signed."}
	accounts = Paper{"accounts", "Accounts of the last closed year", "Give the day until which they are the latest."}
	extract  = Paper{"extract", "Extract of the register",
		"Not older than six months; give the day until which it is good."}
	minutes = Paper{"minutes", "Minutes of the meeting that founded it, with who was there", ""}
)

// Papers that a legal form shows; nil for a public body, and while it is not said.
func (f LegalForm) Papers() []Paper {
	return map[LegalForm][]Paper{Charity: {statutes, accounts}, Company: {extract, accounts}, Society: {statutes, extract},
		Group: {minutes}}[f]
}

// PaperOf finds a paper of a legal form by its key.
func (f LegalForm) PaperOf(key string) (Paper, bool) {
	for _, p := range f.Papers() {
		if p.Key == key {
			return p, true
		}
	}
	return Paper{}, false
}

// Shown is how a paper stands: whether there is one, and whether it is still good.
type Shown struct{ There, Good bool }

// lackPapers lists what a legal form still has to show.
func lackPapers(f LegalForm, shown map[string]Shown) (out []string) {
	if f.Label() == "" {
		return []string{"Say what it is by law; it says which papers to show."}
	}
	for _, p := range f.Papers() {
		switch s := shown[p.Key]; {
		case !s.There:
			out = append(out, "Put in: "+p.Label+".")
		case !s.Good:
			out = append(out, "Out of date: "+p.Label+". Put in the one that is in force.")
		}
	}
	return out
}
