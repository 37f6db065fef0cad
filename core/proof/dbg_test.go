package proof
import ("testing";"time";"context";"ulvant/core/form";"ulvant/demo";"ulvant/core/say")
func TestDbg(t *testing.T){
	zone, _ := time.LoadLocation("Europe/Dublin")
	list, _ := demo.Designs(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), zone)
	f,_ := form.Compile(list[2])
	p := &prover{ctx: context.Background(), f: f, report: &Report{}, names: say.Names{Form: f}}
	p.w = newWorld(newFormula(), f, map[string]lit{}); p.w.encode()
	st := p.w.questions[p.w.index["why-helpers"]]
	a, m := p.ask(st.asked.yes)
	ap, ok := p.w.applicant(m)
	t.Log(a, ok)
	for k, v := range ap.Filled.Answers { if k.Question=="helpers" { t.Log(k, v) } }
	path := f.Walk(ap.Filled)
	t.Log(path.Find("why-helpers").Asked, path.Find("helpers").Presence, path.Find("helpers").Asked, say.When(f.Question("why-helpers").Asked, p.names))
}
