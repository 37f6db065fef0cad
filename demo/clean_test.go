package demo_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/proof"
	"ulvant/demo"
)

// Crying wolf is a defect: the demo's designs are right, so they draw no finding at
// all, and leave nothing undecided.
func TestTheDemosDesignsDrawNoFinding(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := demo.Designs(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), zone)
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range list {
		t.Run(d.Name, func(t *testing.T) {
			f, err := form.Compile(d)
			if err != nil {
				t.Fatal(err)
			}
			r := proof.Run(context.Background(), f)
			for _, x := range r.Findings {
				if x.Code != proof.NotYetUsed { // a fact about the program, not about the design
					t.Errorf("%s at %s: %s", x.Code, x.Path, x.Says)
				}
			}
			for _, o := range r.Open {
				if !strings.HasPrefix(o.Says, "This hangs on the rows of") {
					t.Errorf("undecided: %v", o)
				}
			}
			if len(r.Unseen) > 0 || !r.Opens() {
				t.Errorf("not looked at: %v", r.Unseen)
			}
		})
	}
}
