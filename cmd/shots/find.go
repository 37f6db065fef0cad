package main

import (
	"fmt"
	"strings"

	"ulvant/internal/browser"
)

// find opens a page: an address, or "js:PAGE:SELECTOR:REST", the address of a
// link found on a page with REST after it; REST "letter" follows the link in a
// mail.
func find(p *browser.Person, path string) error {
	rest, ok := strings.CutPrefix(path, "js:")
	if !ok {
		return p.Open(path)
	}
	page, rest, _ := strings.Cut(rest, ":")
	at := strings.LastIndex(rest, ":/")
	sel, tail := rest, ""
	if at >= 0 {
		sel, tail = rest[:at], rest[at+1:]
	}
	letter := strings.HasSuffix(sel, ":letter")
	sel = strings.TrimSuffix(sel, ":letter")
	if err := p.Open(page); err != nil {
		return err
	}
	href, err := browser.Eval[string](p, fmt.Sprintf(`document.querySelector(%q).getAttribute('href')`, sel))
	if err != nil {
		return err
	}
	if err := p.Open(href + tail); err != nil || !letter {
		return err
	}
	if href, err = browser.Eval[string](p, `document.querySelector('.mailbody a').getAttribute('href')`); err != nil {
		return err
	}
	return p.Open(href)
}
