// Package proof checks a round's design without running it. Every condition,
// limit and rule becomes literals of a boolean formula, every threshold of a
// number or date a cut, sums are held to by exact simplex; a solver then looks
// for an applicant who meets a thing, or finds that there is none. Applicants
// cannot change facts, they can change choices: a trap is some facts for which
// an eligible application exists, and yet none that is both eligible and can
// be sent, whatever is chosen (found by counterexample-guided refinement, as
// for ∃∀ formulas in Solar-Lezama, Program Synthesis by Sketching, 2008, §4).
//
// Every "possible" is turned into a made-up applicant and walked through the
// real form before it is believed; every "never" comes with a smallest set of
// parts of the design that already makes it so, found by leaving parts out one
// by one.
package proof

import (
	"context"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/say"
)

// Grade of a finding.
type Grade string

// The grades, the gravest first.
const (
	CannotOpen Grade = "cannot open"
	ThinkAgain Grade = "think again"
	Note       Grade = "note"
)

// Grades lists them.
var Grades = []Grade{CannotOpen, ThinkAgain, Note}

// Code names what was found.
type Code string

// The findings.
const (
	NeverAsked    Code = "never-asked"
	OnlyRefused   Code = "only-refused"
	AlwaysAsked   Code = "always-asked"
	NeverHolds    Code = "never-holds"    // a limit, a price, a fee, a criterion
	CannotAnswer  Code = "cannot-answer"  // asked, compulsory, and nothing meets its limits
	Contradiction Code = "contradiction"  // nobody may apply
	Trap          Code = "trap"           //
	NobodySends   Code = "nobody-sends"   // eligible, and nobody can ever send
	NobodysAward  Code = "nobodys-award"  //
	NobodysStream Code = "nobodys-stream" //
	BlankDecides  Code = "blank-decides"
	LetInRefused  Code = "let-in-and-refused"
	AskedNobody   Code = "asks-nobody" // an award's criterion reads what nobody is asked
	IdleRule      Code = "idle-rule"
	Dates         Code = "dates"
	AidOver       Code = "aid-over" // the ceiling of public aid lies below the least that can be asked for
	FeesAsk       Code = "fees"     // what the fees of a round say and never do
	VoteAsks      Code = "vote"     // what a public vote cannot be, or is not what was promised
	Letters       Code = "letters"
	ShowsName     Code = "shows-name"
	Unjudged      Code = "unjudged"
	Unused        Code = "unused"
	Sizes         Code = "sizes"
	StreamsUnused Code = "streams-unused"
	NotYetUsed    Code = "not-yet-used"
	Fault         Code = "fault" // the design does not compile there
)

// Reason is one part of the design behind a finding.
type Reason struct {
	Path string
	Says string
}

// Mend is a change of the design that was proved to end a finding.
type Mend struct {
	Says string
	Ops  []design.Op
}

// Finding is one thing found.
type Finding struct {
	Grade   Grade
	Code    Code
	Path    string // of the thing in the document
	Says    string
	Because []Reason
	Example *Applicant // somebody it would hit; nil for none
	Stage   form.Key   // the stage in which it would
	Mends   []Mend
}

// Open is something that could not be decided; the officer sees it and signs.
type Open struct {
	Path, Says string
}

// Report of a proof.
type Report struct {
	Findings []Finding
	Open     []Open   // undecided
	Unseen   []string // what time did not suffice for, in words
	Queries  int      // asked of the solver

	parts map[string]part // those that were looked at to their end
}

// part is what one part of the proof came to.
type part struct {
	findings []Finding
	open     []Open
}

// Of lists the findings of a grade.
func (r *Report) Of(g Grade) []Finding {
	var out []Finding
	for _, f := range r.Findings {
		if f.Grade == g {
			out = append(out, f)
		}
	}
	return out
}

// Opens reports a design that may open: nothing of the gravest grade was found.
// What could not be decided, and what was not looked at, must be signed for.
func (r *Report) Opens() bool { return len(r.Of(CannotOpen)) == 0 }

// ToSign is how many things an officer must sign for who opens it.
func (r *Report) ToSign() int { return len(r.Open) + len(r.Unseen) }

type prover struct {
	ctx    context.Context
	f      *form.Form
	w      *world
	report *Report
	models []model // found so far: they answer many questions without the solver
	names  say.Names
}

// lastPart is not part of the proof: without it, fewer changes are offered.
const lastPart = "changes that would mend it"

// Run proves a design that compiles. When the context ends before it does, the
// report says what was not looked at.
func Run(ctx context.Context, f *form.Form) *Report { return GoOn(ctx, f, nil) }

// GoOn goes on with a proof of the same design that ran out of time: what was
// looked at to its end is kept, and not looked at again. before may be nil.
func GoOn(ctx context.Context, f *form.Form, before *Report) *Report {
	r := &Report{parts: map[string]part{}}
	p := &prover{ctx: ctx, f: f, report: r, names: say.Names{Form: f}}
	p.plain()
	fm := newFormula()
	p.w = newWorld(fm, f, map[string]lit{})
	p.w.encode()
	for _, one := range []struct {
		what string
		do   func()
	}{{"who may apply at all", p.rules}, {"what is never asked", p.reach}, {"what cannot be answered",
		p.answers}, {"awards, fees and criteria", p.things}, {"what voters see", p.voted}, {"traps", p.traps},
		{lastPart, p.mends}} {
		if before != nil {
			if was, ok := before.parts[one.what]; ok {
				r.Findings, r.Open, r.parts[one.what] = append(r.Findings, was.findings...), append(r.Open, was.open...), was
				continue
			}
		}
		found, open := len(r.Findings), len(r.Open)
		if ctx.Err() == nil {
			one.do()
		}
		switch {
		case one.what == lastPart:
		case ctx.Err() != nil:
			r.Unseen = append(r.Unseen, one.what)
		default:
			r.parts[one.what] = part{slices.Clone(r.Findings[found:]), slices.Clone(r.Open[open:])}
		}
	}
	slices.SortStableFunc(r.Findings, func(a, b Finding) int {
		return slices.Index(Grades, a.Grade) - slices.Index(Grades,
			b.Grade)
	})
	return r
}

// selectors are all parts of the design.
func (p *prover) selectors() []lit {
	out := make([]lit, 0, len(p.w.sel))
	for _, s := range p.w.sel {
		out = append(out, s)
	}
	slices.Sort(out)
	return out
}

// ask whether all goals can hold together under the whole design.
func (p *prover) ask(goals ...lit) (answer, model) {
	for _, g := range goals {
		if g == never {
			return impossible, nil
		}
	}
	for _, m := range p.models {
		if !slices.ContainsFunc(goals, func(g lit) bool { return int(max(g, -g)) > len(m) || !m.holds(g) }) {
			return possible, m
		}
	}
	p.report.Queries++
	a, m := p.w.solve(p.ctx, append(p.selectors(), goals...)...)
	if a == possible {
		p.models = append(p.models, m)
	}
	return a, m
}

// core is a smallest set of parts of the design under which the goals cannot
// hold together.
func (p *prover) core(goals ...lit) []Reason {
	kept := p.selectors()
	still := func(of []lit) bool {
		p.report.Queries++
		a, _ := p.w.solve(p.ctx, append(slices.Clone(of), goals...)...)
		return a == impossible
	}
	for size := len(kept) / 2; size >= 1; size /= 2 {
		for i := 0; i < len(kept); {
			without := slices.Delete(slices.Clone(kept), i, min(i+size, len(kept)))
			if still(without) {
				kept = without
			} else {
				i += size
			}
		}
	}
	for i := 0; i < len(kept); { // until nothing more can be left out
		if without := slices.Delete(slices.Clone(kept), i, i+1); still(without) {
			kept, i = without, 0
		} else {
			i++
		}
	}
	var out []Reason
	for path, s := range p.w.sel {
		if slices.Contains(kept, s) {
			out = append(out, p.reason(path))
		}
	}
	slices.SortFunc(out, func(a, b Reason) int { return strings.Compare(a.Path, b.Path) })
	return out
}

// believe turns a model into an applicant and walks it; is says what must come
// of that. A disagreement is something undecided, never a finding.
func (p *prover) believe(m model, stage form.Key, is func(path *form.Path) bool) (*Applicant, bool) {
	a, ok := p.w.applicant(m)
	if !ok {
		return nil, false
	}
	return a, is(p.f.Walk(a.At(p.f, stage)))
}

func (p *prover) found(x Finding) { p.report.Findings = append(p.report.Findings, x) }

func (p *prover) open(path, says string) {
	if !slices.Contains(p.report.Open, Open{path, says}) {
		p.report.Open = append(p.report.Open, Open{path, says})
	}
}

// label of a question for sentences.
func quoted(label string) string { return "“" + strings.TrimSuffix(label, "?") + "”" }

// matters are the questions that a finding's parts read, and its own.
func (p *prover) matters(because []Reason, own ...form.Key) map[form.Key]bool {
	out := map[form.Key]bool{}
	for _, k := range own {
		out[k] = true
	}
	conds := map[string]condition.Cond{}
	eachCond(p.f.Design, func(path string, c condition.Cond) { conds[path] = c })
	var see func(r condition.Ref)
	see = func(r condition.Ref) {
		switch {
		case r.Answer != "":
			out[r.Answer] = true
		case r.Figure != "":
			if x := p.w.figures[r.Figure]; x != nil {
				for _, o := range x.Of {
					see(o)
				}
			}
		case r.Fixed == condition.Stream || r.Fixed == condition.Applicant:
			out[p.w.fixedKey(r.Fixed)] = true
		}
	}
	for _, r := range because {
		for _, path := range []string{r.Path, r.Path + "/holds", r.Path + "/when"} {
			conds[path].Refs(see)
		}
		if i := strings.Index(r.Path, "/questions/"); i >= 0 {
			key, _, _ := strings.Cut(r.Path[i+len("/questions/"):], "/")
			out[form.Key(key)] = true
		}
	}
	return out
}

// lastStage is the last in which people write; "" in a form without stages.
func (p *prover) lastStage() form.Key {
	list := p.f.Applying()
	if len(list) == 0 {
		return ""
	}
	return list[len(list)-1].Key
}

// stageAt is the stage of a place.
func (p *prover) stageAt(place int) form.Key {
	if place == p.f.Place(form.AfterSending) {
		return form.AfterSending
	}
	for _, s := range p.f.Applying() {
		if p.f.Place(s.Key) == place {
			return s.Key
		}
	}
	return ""
}

// rules finds rules that leave nobody, and rules that refuse nobody.
func (p *prover) rules() {
	if len(p.w.rules) == 0 {
		return
	}
	last := p.f.Place(p.lastStage())
	if a, _ := p.ask(p.w.eligible(last)); a == impossible {
		because := p.core(p.w.eligible(last))
		p.found(Finding{Grade: CannotOpen, Code: Contradiction, Path: pathOr(because, "rules"), Because: because,
			Says: "Nobody may apply: " + together(because, "the rules cannot all be met.",
				"this rule cannot be met by anybody.")})
		return
	}
	for i, r := range p.w.rules {
		d := p.f.Design.Rules[i]
		if d.Person || r.fails == never {
			continue
		}
		if a, _ := p.ask(r.fails); a == impossible {
			p.found(Finding{Grade: Note, Code: IdleRule, Path: "rules/" + string(d.Key), Because: p.core(r.fails),
				Says: "The rule “" + d.Label + "” refuses nobody: whoever gets to it meets it."})
		}
	}
}

func pathOr(because []Reason, otherwise string) string {
	if len(because) == 0 {
		return otherwise
	}
	return because[0].Path
}

func together(because []Reason, many, one string) string {
	if len(because) == 1 {
		return one
	}
	return many
}

// reach finds what nobody is asked, or only those who are refused, or everybody
// though a condition stands there.
func (p *prover) reach() {
	for i, st := range p.w.sections {
		s := &p.f.Design.Sections[i]
		p.reached(st, s.Asked, "The section “"+s.Label+"”", "", triYes)
	}
	for _, st := range p.w.questions {
		if p.ctx.Err() != nil {
			return
		}
		in := p.w.sections[st.section]
		if st.q.Asked.Always() { // as its section
			continue
		}
		p.reached(st, st.q.Asked, quoted(st.q.Label), st.q.Key, in.asked)
	}
}

func (p *prover) reached(st *asked, c condition.Cond, what string, key form.Key, within tri) {
	if c.Always() || within.yes == never {
		return
	}
	stage := p.stageAt(st.stage)
	if within != triYes {
		if a, _ := p.ask(within.yes); a == impossible {
			return // its section says so already
		}
	}
	a, m := p.ask(st.asked.yes)
	switch a {
	case impossible:
		because := p.core(st.asked.yes)
		grade, says := ThinkAgain, what+" is never asked: no applicant meets its condition."
		if st.q != nil && st.q.Blank == form.Required {
			says = what + " must be answered and is never asked: no applicant meets its condition."
		}
		p.found(Finding{Grade: grade, Code: NeverAsked, Path: st.path, Says: says, Because: because})
		return
	case undecided:
		p.open(st.path, what+": whether anybody is asked could not be decided.")
		return
	}
	if key != "" {
		if _, ok := p.believe(m, stage, func(path *form.Path) bool { return path.Find(key).Asked == condition.Yes }); !ok {
			p.open(st.path, what+": whether anybody is asked could not be decided.")
			return
		}
	}
	if e := p.w.eligible(st.stage); e != never {
		if a, _ := p.ask(st.asked.yes, e); a == impossible {
			because := p.core(st.asked.yes, e)
			p.found(Finding{Grade: ThinkAgain, Code: OnlyRefused, Path: st.path, Because: because,
				Example: p.example(m, because, key), Stage: stage,
				Says: what + " is asked only of people whom the rules refuse."})
			return
		}
	}
	if a, _ := p.ask(within.yes, -st.asked.yes); a == impossible {
		p.found(Finding{Grade: Note, Code: AlwaysAsked, Path: st.path, Because: p.core(within.yes, -st.asked.yes),
			Says: what + " is asked of everybody who gets there, although it has a condition."})
	}
}

// example is an applicant with the answers that matter in words.
func (p *prover) example(m model, because []Reason, own ...form.Key) *Applicant {
	a, ok := p.w.applicant(m)
	if !ok {
		return nil
	}
	p.w.describe(a, p.matters(because, own...), func(q *form.Question, filled *form.Filled,
		st *form.QuestionState) string {
		return say.Answer(p.f, q, filled, st)
	})
	return a
}

// answers finds questions that somebody must answer and nobody can, and limits
// that never hold.
func (p *prover) answers() {
	for _, st := range p.w.questions {
		if p.ctx.Err() != nil {
			return
		}
		q := st.q
		what := quoted(q.Label)
		for k, c := range st.cases {
			if c == never {
				continue
			}
			if a, _ := p.ask(st.asked.yes); a == impossible {
				break
			}
			if a, _ := p.ask(st.asked.yes, c); a == impossible {
				p.found(Finding{Grade: Note, Code: NeverHolds, Path: st.path, Because: p.core(st.asked.yes, c),
					Says: "The " + nth(k) + " limit of " + what + " never holds: another comes before it, or nobody meets it."})
			}
		}
		if st.fits == always {
			continue
		}
		if a, m := p.ask(st.asked.yes, st.must); a != possible || m == nil {
			continue
		}
		a, _ := p.ask(st.asked.yes, st.must, st.ok)
		if a != impossible {
			continue
		}
		_, m := p.ask(st.asked.yes, st.must)
		because := p.core(st.asked.yes, st.must, st.ok)
		p.found(Finding{Grade: CannotOpen, Code: CannotAnswer, Path: st.path, Because: because,
			Example: p.example(m, because, q.Key), Stage: p.stageAt(st.stage),
			Says: what + " must be answered and cannot be: no answer lies within its limits."})
	}
}

func nth(k int) string {
	if k < 9 {
		return [...]string{"first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth"}[k]
	}
	return "last"
}
