package journey_test

import (
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ulvant/demo"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// axe-core finds nothing, in its WCAG 2.2 AA rules, on any kind of page that
// visitors, applicants, referees and readers meet, at a desk and on a phone.
func TestPagesAreAccessible(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	b := webtest.Browser(t)
	for who, pages := range map[string][]string{
		"": {"/", "find:/ a[href^='/rounds/']", "find:/ a[href^='/rounds/'] /check", "/check",
			"find:/ a[href^='/rounds/'] /questions", "/sign-in", "/sign-up", "letter:dacian.rowe@wardens.example"},
		"imre.calloway@corvoe-foreshore-common.example": {"/applications", "/profiles", "/account", "/account/leave",
			"find:/applications a.main /more-time", "find:/applications a.main /earlier/describe",
			"find:/applications a.main /team", "sections:/applications", "find:/applications a.main /send"},
		"juno.blackadder@leavers.example":     {"sections:/applications"},
		"isolde.fairweather@night.example":    {"sections:/applications"},
		"annelise.broch@studio-broch.example": {"sections:/applications"},
		"branwen.iveagh@ness-common.example": {"find:/applications a.main",
			"find:/applications a.main /sent?stage=writing"},
		"rosalind.aird@ferry-field-graziers.example": {"find:/applications a.main /sent",
			"find:/applications a.main /survey"},
		"neda.sparrow@ostrel-trust.example": append([]string{"/office", "/office/applications", "/office/people",
			"/office/people/1", "/office/settings", "/office/profiles", "/office/security",
			"find:/office/applications .regtable a.main"}, ofRound("", "/applications", "/applications?beside=add",
			"/applications?if=state~is~draft&beside=if.0", "/applications?beside=columns", "/applications?beside=keep",
			"/checks", "/rescue", "/decisions", "/reading", "/care", "/asked", "/questions", "/guidance", "/costs")...),
		"runa.slipwright@tarl-slip.example": {"/gifts"},
		"oriel.vane@readers.example":        {"/reading", "find:/reading a[href^='/reading/']"},
	} {
		p := webtest.In(t, webtest.Another(t, b, base))
		if who != "" {
			p.Ok(p.As(who, demo.Password))
		}
		var todo []string
		for _, page := range pages {
			todo = append(todo, addresses(p, page)...)
		}
		for _, page := range todo {
			p.Ok(p.Open(page))
			for _, width := range []int64{1280, 390} {
				p.Ok(p.Size(width, 844))
				found, err := p.Accessible()
				p.Ok(err)
				for _, f := range found {
					t.Errorf("%s at %d px, as %q: %s", page, width, who, f)
				}
			}
		}
	}
}

// ofRound are pages of the open round of grants, as addresses takes them.
func ofRound(pages ...string) (out []string) {
	for _, p := range pages {
		if p != "" {
			p = " " + p
		}
		out = append(out, "find:/office/rounds a.main[href*='/shore-and-peat-']"+p)
	}
	return out
}

var sectionLinks = regexp.MustCompile(`^/applications/[^/]+/sections/[^/#?]+$`)

// addresses brings "find:PAGE SELECTOR [REST]" to the address of a link on a
// page, "sections:PAGE" to all sections of the first application there, and
// "letter:ADDRESS" to the personal link in the mail to somebody.
func addresses(p webtest.Play, page string) []string {
	p.T.Helper()
	href := func(sel string) string {
		out, err := browser.Eval[string](p.Person, `document.querySelector("`+sel+`")?.getAttribute('href') ?? ''`)
		p.Ok(err)
		if out == "" {
			p.T.Fatalf("%s has no link %s", page, sel)
		}
		return out
	}
	switch kind, rest, _ := strings.Cut(page, ":"); kind {
	case "find":
		from, sel, _ := strings.Cut(rest, " ")
		sel, tail, _ := strings.Cut(sel, " /")
		p.Ok(p.Open(from))
		at := href(sel)
		if tail != "" {
			at += "/" + tail
		}
		return []string{at}
	case "sections":
		p.Ok(p.Open(rest))
		p.Ok(p.Open(href("a.main")))
		all, err := browser.Eval[[]string](p.Person, `[...document.querySelectorAll('a')].map(a => a.getAttribute('href'))`)
		p.Ok(err)
		var out []string
		for _, a := range all {
			if sectionLinks.MatchString(a) && !webtest.Contains(strings.Join(out, " ")+" ", a+" ") {
				out = append(out, a)
			}
		}
		return out
	case "letter":
		p.Ok(p.Open("/tray?to=" + url.QueryEscape(rest)))
		p.Ok(p.Open(href("a.main")))
		link, err := browser.Eval[string](p.Person,
			`document.querySelector('.mailbody').innerText.match(/\/letter\/[\w.-]+/)?.[0] ?? ''`)
		p.Ok(err)
		if link == "" {
			p.T.Fatalf("the mail to %s has no link", rest)
		}
		return []string{link}
	}
	return []string{page}
}
