// Package voter is where the public votes: the page of a vote, one's ballot, and the
// result, which any browser counts again. Nobody needs an account, and the pages are small
// enough for a telephone on a bad line: no fonts, no swaps.
package voter

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is for whoever votes.
var Room = site.Room{Name: "voter", Pages: pages, Values: map[string]any{
	"front": frontPage{}, "ballot": ballotPage{}, "wait": waitPage{}, "result": resultPage{}, "project": projectPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/votes/:round", Action: access.Visit, Handle: Front},
	{Method: site.Post, Path: "/votes/:round/ask", Action: access.Visit, Handle: Ask},
	{Method: site.Post, Path: "/votes/:round/code", Action: access.Visit, Handle: Code},
	{Method: site.Get, Path: "/votes/:round/projects/:number", Action: access.Visit, Handle: Project},
	{Method: site.Get, Path: "/votes/:round/pictures/:file", Action: access.Visit, Handle: Picture},
	{Method: site.Get, Path: "/votes/:round/ballots.json", Action: access.Visit, Handle: Ballots},
	{Method: site.Get, Path: "/votes/:round/ballots.csv", Action: access.Visit, Handle: Ballots},
	{Method: site.Get, Path: "/ballot/:ballot", Action: access.Visit, Handle: Ballot},
	{Method: site.Post, Path: "/ballot/:ballot", Action: access.Visit, Handle: Cast},
}}
