// Command shots takes the pictures in docs/screenshots from a demo that is
// running: go run ./cmd/shots http://localhost:8080 docs/screenshots. Further
// arguments pick pictures by name.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"ulvant/demo"
	"ulvant/internal/browser"
)

// view is one picture: who looks, at what, in which window.
type view struct {
	name, who     string
	path          string // a page, or an expression that finds its address after js:
	width, height int64
}

const (
	officer   = "Neda Sparrow"
	applicant = "Imre Calloway"
	reader    = "Oriel Vane"
	juno      = "juno.blackadder@leavers.example"
	annelise  = "annelise.broch@studio-broch.example"
	isolde    = "isolde.fairweather@night.example"
)

var views = []view{
	{"open-rounds", "", "/", 1280, 800},
	{"round", "", "js:/:.publicround a[href*=shore-and-peat]", 1280, 800},
	{"check-all", "", "/check", 1280, 800},
	{"check", "", "js:/:.publicround .acts a[href*=shore-and-peat][href$=check]", 1280, 800},
	{"check-phone", "", "js:/:.publicround .acts a[href*=shore-and-peat][href$=check]", 390, 844},
	{"sign-in", "", "/sign-in", 1280, 800},
	{"workspace", applicant, "js:/applications:a.main:/sections/work", 1280, 800},
	{"workspace-phone", applicant, "js:/applications:a.main:/sections/work", 390, 844},
	{"budget", applicant, "js:/applications:a.main:/sections/budget-section#q-budget", 1280, 800},
	{"budget-phone", applicant, "js:/applications:a.main:/sections/budget-section#q-budget", 390, 844},
	{"references", applicant, "js:/applications:a.main:/sections/references", 1280, 800},
	{"send", applicant, "js:/applications:a.main:/send", 1280, 800},
	{"my-applications", applicant, "/applications", 1280, 800},
	{"today", officer, "/office", 1280, 800},
	{"rounds", officer, "/office/rounds", 1280, 800},
	{"overview", officer, "js:/office/rounds:a.main[href*=shore-and-peat]", 1280, 800},
	{"applications", officer, "js:/office/rounds:a.main[href*=shore-and-peat]:/applications", 1280, 800},
	{"costs", officer,
		"js:/office/rounds:[data-rows] tr:has(a[href*=shore-and-peat]) ~ tr a[href*=shore-and-peat]:/costs", 1280, 800},
	{"fees", officer, "js:/office/rounds:a.main[href*=footbridge]:/fees", 1280, 800},
	{"people", officer, "js:/office/rounds:a.main[href*=shore-and-peat]:/asked", 1280, 800},
	{"rescue", officer, "js:/office/rounds:a.main[href*=shore-and-peat]:/rescue", 1280, 800},
	{"organisation", "delphine.aske@corvoe-port-users.example", "js:/profiles:a.main", 1280, 800},
	{"checks", officer, "js:/office/rounds:a.main[href*=shore-and-peat]:/checks", 1280, 800},
	{"case", officer, "js:/office/find?q=Foreshore rights:a.main", 1280, 800},
	{"reading", officer, "js:/office/rounds:[data-rows] tr:has(a[href*=shore-and-peat]) ~ tr " +
		"a[href*=shore-and-peat]:/reading", 1280, 800},
	{"decisions", officer,
		"js:/office/rounds:[data-rows] tr:has(a[href*=shore-and-peat]) ~ tr a[href*=shore-and-peat]:/decisions", 1280, 800},
	{"what-if", officer,
		"js:/office/rounds:[data-rows] tr:has(a[href*=shore-and-peat]) ~ tr a[href*=shore-and-peat]:/what-ifs?id=2", 1280,
		800},
	{"awards", officer, "js:/office/rounds:a.main[href*=yard-learners]:/placing?award=the-sail-loft-bequest&person=YLY-0066-3", 1280, 800},
	{"vote", "", "/votes/skerra-village-budget", 1280, 800},
	{"vote-office", officer, "js:/office/rounds:a.main[href*=ferry-stair]:/vote", 1280, 800},
	{"interviews", officer, "js:/office/rounds:a.main[href*=listening]:/interviews", 1280, 800},
	{"panel", officer,
		"js:/office/rounds:[data-rows] tr:has(a[href*=shore-and-peat]) ~ tr a[href*=shore-and-peat]:/panel/1", 1280, 800},
	{"design", officer, "js:/office/rounds:a.main[href*=shore-and-peat]:/design?path=sections/work/questions/describe",
		1280, 800},
	{"design-slot", officer,
		"js:/office/rounds:a.main[href*=shore-and-peat]:/design?path=sections/materials/questions/site-plan", 1280, 1400},
	{"boats-learning", juno, "js:/applications:a.main:/sections/learning", 1280, 1500},
	{"boats-you-phone", juno, "js:/applications:a.main:/sections/you", 390, 1600},
	{"boats-awards", juno, "js:/applications:a.main:/sections/awards-section", 1280, 1400},
	{"night-references", isolde, "js:/applications:a.main:/sections/references", 1280, 900},
	{"bridge-fee-phone", annelise, "js:/applications:a.main:/sections/fee-section", 390, 1000},
	{"bridge-design", annelise, "js:/applications:a.main:/sections/the-design", 1280, 1800},
	{"bridge-fee", annelise, "js:/applications:a.main:/sections/fee-section", 1280, 800},
	{"night-plan", isolde, "js:/applications:a.main:/sections/plan", 1280, 1900},
	{"proof", officer, "/office/rounds/small-works/design?path=rules/worth-it", 1280, 1000},
	{"asked", officer, "/office/rounds/small-works/design/table", 1280, 800},
	{"reading-desk", reader, "js:/reading:a.main", 1280, 800},
	{"reading-desk-phone", reader, "js:/reading:a.main", 390, 844},
	{"letter", "", "js:/tray?to=dacian.rowe@wardens.example:a.main:letter", 1280, 800},
	{"last-look", officer, "/office/rounds/small-works/open", 1280, 900},
	{"team", applicant, "js:/applications:a.main:/team", 1280, 800},
	{"sign-up", "", "/sign-up", 1280, 800},
	{"new-round", officer, "/office/new-round", 1280, 900},
	{"account", applicant, "/account", 1280, 1000},
	{"security", officer, "/office/security", 1280, 800},
	{"light", "Teodora Brisk", "/reading/light", 1280, 800},
	{"letter-phone", "", "js:/tray?to=dacian.rowe@wardens.example:a.main:letter", 390, 844},
}

func main() {
	if len(os.Args) < 3 {
		fmt.Fprintln(os.Stderr, "say: shots ADDRESS FOLDER [NAME…]")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2], os.Args[3:]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(base, folder string, only []string) error {
	b, err := browser.Start()
	if err != nil {
		return err
	}
	defer b.Stop()
	people := map[string]*browser.Person{}
	for _, v := range views {
		if len(only) > 0 && !slices.Contains(only, v.name) {
			continue
		}
		p := people[v.who]
		if p == nil {
			if p, err = b.Person(base, v.width, v.height); err != nil {
				return err
			}
			people[v.who] = p
			if v.who != "" {
				if err := p.As(v.who, demo.Password); err != nil {
					return err
				}
			}
		}
		if err := p.Size(v.width, v.height); err != nil {
			return err
		}
		if err := find(p, v.path); err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
		if err := p.Until(`!document.body.textContent.includes('being worked out')`); err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
		if err := p.Shot(filepath.Join(folder, v.name+".png")); err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
	}
	return nil
}
