package proof

import (
	"context"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/demo"
)

func TestTmp(t *testing.T) {
	zone, _ := time.LoadLocation("Europe/Dublin")
	list, err := demo.Designs(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), zone)
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range list {
		f, err := form.Compile(d)
		if err != nil {
			t.Fatal(err)
		}
		at := time.Now()
		r := Run(context.Background(), f)
		t.Logf("%s: %v, %d queries, open %v unseen %v", d.Name, time.Since(at), r.Queries, r.Open, r.Unseen)
		for _, x := range r.Findings {
			t.Logf("  %s %s %s: %s", x.Grade, x.Code, x.Path, x.Says)
			for _, b := range x.Because {
				t.Logf("     - %s", b.Says)
			}
			if x.Example != nil {
				t.Logf("     e.g. %v", x.Example.Says)
			}
			for _, m := range x.Mends {
				t.Logf("     > %s", m.Says)
			}
		}
	}
}
