package condition

// Tri is a truth value of strong Kleene logic, ordered No < Unknown < Yes.
type Tri int8

// The three truth values.
const (
	No Tri = iota
	Unknown
	Yes
)

// String is no, unknown or yes.
func (t Tri) String() string { return [...]string{"no", "unknown", "yes"}[t] }

// Not is the complement: unknown stays unknown.
func (t Tri) Not() Tri { return Yes - t }

// Verdict is a truth value and, when it is unknown, what kept it so.
type Verdict struct {
	Tri      Tri
	Blank    bool // unknown because something asked is still empty or unsettled
	Declared bool // unknown because somebody declared that they do not know
}

// ForPerson reports an unknown that no further writing will settle.
func (v Verdict) ForPerson() bool { return v.Tri == Unknown && v.Declared && !v.Blank }
