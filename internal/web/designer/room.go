package designer

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is where a round is designed, proved, tried and opened.
var Room = site.Room{Name: "designer", Pages: pages, Values: map[string]any{
	"open": lastLook{}, "page": page{}, "proof": &panel{}, "rehearse": rehearsePage{},
	"replay": replayPage{}, "table": tablePage{}, "try": tryPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/design", Action: access.SeeDesign, Handle: Page},
	{Method: site.Post, Path: "/office/rounds/:round/design", Action: access.EditDesign, Handle: Set},
	{Method: site.Post, Path: "/office/rounds/:round/design/add", Action: access.EditDesign, Handle: Add},
	{Method: site.Post, Path: "/office/rounds/:round/design/move", Action: access.EditDesign, Handle: Move},
	{Method: site.Post, Path: "/office/rounds/:round/design/copy", Action: access.EditDesign, Handle: Duplicate},
	{Method: site.Post, Path: "/office/rounds/:round/design/keep", Action: access.EditDesign, Handle: Keep},
	{Method: site.Post, Path: "/office/rounds/:round/design/remove", Action: access.EditDesign, Handle: Remove},
	{Method: site.Post, Path: "/office/rounds/:round/design/undo", Action: access.EditDesign, Handle: Undo},
	{Method: site.Post, Path: "/office/rounds/:round/design/redo", Action: access.EditDesign, Handle: Redo},
	{Method: site.Post, Path: "/office/rounds/:round/design/import", Action: access.EditDesign, Large: true,
		Handle: Import},
	{Method: site.Get, Path: "/office/rounds/:round/design/questions.csv", Action: access.SeeDesign,
		Handle: Questions},
	{Method: site.Get, Path: "/office/rounds/:round/design/questions.json", Action: access.SeeDesign,
		Handle: Questions},
	{Method: site.Get, Path: "/office/rounds/:round/design/awards.csv", Action: access.SeeDesign, Handle: Awards},
	{Method: site.Get, Path: "/office/rounds/:round/design/awards.json", Action: access.SeeDesign, Handle: Awards},
	{Method: site.Get, Path: "/office/rounds/:round/design.json", Action: access.SeeDesign, Handle: Export},
	{Method: site.Get, Path: "/office/rounds/:round/design/proof", Action: access.SeeDesign, Handle: Proof},
	{Method: site.Post, Path: "/office/rounds/:round/design/mend", Action: access.EditDesign, Handle: Mend},
	{Method: site.Get, Path: "/office/rounds/:round/design/table", Action: access.SeeDesign, Handle: Table},
	{Method: site.Get, Path: "/office/rounds/:round/design/table.csv", Action: access.SeeDesign, Handle: TableRows},
	{Method: site.Get, Path: "/office/rounds/:round/design/table.json", Action: access.SeeDesign,
		Handle: TableRows},
	{Method: site.Get, Path: "/office/rounds/:round/design/replay", Action: access.SeeDesign, Handle: Replay},
	{Method: site.Get, Path: "/office/rounds/:round/design/rehearse", Action: access.SeeDesign, Handle: Rehearse},
	{Method: site.Get, Path: "/office/rounds/:round/design/try", Action: access.SeeDesign, Handle: Try},
	{Method: site.Post, Path: "/office/rounds/:round/design/try", Action: access.SeeDesign, Handle: Try},
	{Method: site.Get, Path: "/office/rounds/:round/open", Action: access.SeeDesign, Handle: LastLook},
	{Method: site.Post, Path: "/office/rounds/:round/open", Action: access.OpenRound, Handle: Open},
}}
