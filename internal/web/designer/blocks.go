package designer

// What the blocks of the designer's pages take.

// acting is a form with one button that does something with what is being set.
type acting struct {
	P                    page
	Do, Way, Says, Label string
	CSRF                 string
}

// Act is such a form.
func (p page) Act(do, way, says, label, csrf string) acting {
	return acting{p, do, way, says, label, csrf}
}

// adding is the form that adds a thing to a list.
type adding struct {
	P              page
	To, Name, CSRF string
}

// Adding is that form.
func (p page) Adding(to, name, csrf string) adding { return adding{p, to, name, csrf} }

// proving is the proof beside the design.
type proving struct {
	P    *panel
	CSRF string
}

// With is the proof, with forms that mend.
func (p *panel) With(csrf string) proving { return proving{p, csrf} }

// finding is one finding of it, in the class it is drawn by.
type finding struct {
	proving
	F     shown
	Class string
}

// Finding is one of the proof's.
func (p proving) Finding(f shown, class string) finding { return finding{p, f, class} }

// asking is the table of who is asked what.
type asking struct {
	proving
	All bool // rows in which nobody differs, too
}

// Asks is that table.
func (p *panel) Asks(all bool, csrf string) asking { return asking{p.With(csrf), all} }
