package register

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is the register: the list of all cases, what colleagues keep about them,
// and what is done to many at once.
var Room = site.Room{Name: "office/register", Pages: pages, Values: map[string]any{
	"register": page{}, "beside": besidePage{}, "bulk": bulkPage{}, "bulks": bulksPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/applications", Action: access.SeeRound, Handle: List},
	{Method: site.Get, Path: "/office/applications", Action: access.ShapeList, Handle: List},
	{Method: site.Get, Path: "/office/rounds/:round/applications/condition", Action: access.SeeRound,
		Handle: SetCondition},
	{Method: site.Get, Path: "/office/applications/condition", Action: access.ShapeList, Handle: SetCondition},
	{Method: site.Get, Path: "/office/rounds/:round/applications/columns", Action: access.SeeRound, Handle: SetColumns},
	{Method: site.Get, Path: "/office/applications/columns", Action: access.ShapeList, Handle: SetColumns},
	{Method: site.Get, Path: "/office/rounds/:round/register.csv", Action: access.SeeRound, Limits: site.Costs,
		Handle: Out},
	{Method: site.Get, Path: "/office/rounds/:round/register.xlsx", Action: access.SeeRound, Limits: site.Costs,
		Handle: Out},
	{Method: site.Get, Path: "/office/rounds/:round/register.json", Action: access.SeeRound, Limits: site.Costs,
		Handle: Out},
	{Method: site.Get, Path: "/office/register.csv", Action: access.ShapeList, Limits: site.Costs, Handle: Out},
	{Method: site.Get, Path: "/office/register.xlsx", Action: access.ShapeList, Limits: site.Costs, Handle: Out},
	{Method: site.Get, Path: "/office/register.json", Action: access.ShapeList, Limits: site.Costs, Handle: Out},

	{Method: site.Post, Path: "/office/rounds/:round/views", Action: access.SeeRound, Handle: KeepView},
	{Method: site.Post, Path: "/office/views", Action: access.ShapeList, Handle: KeepView},
	{Method: site.Get, Path: "/office/views/:view", Action: access.ShapeList, Handle: OpenView},
	{Method: site.Post, Path: "/office/views/:view/drop", Action: access.ShapeList, Handle: DropView},
	{Method: site.Post, Path: "/office/views/:view/back", Action: access.ShapeList, Handle: BringViewBack},

	{Method: site.Get, Path: "/office/applications/:ref/beside", Action: access.SeeCase, Handle: Beside},
	{Method: site.Post, Path: "/office/applications/:ref/labels", Action: access.LabelCase, Handle: Label},
	{Method: site.Post, Path: "/office/applications/:ref/notes", Action: access.NoteCase, Handle: AddNote},
	{Method: site.Post, Path: "/office/applications/:ref/notes/:note/back", Action: access.NoteCase, Handle: TakeNote},
	{Method: site.Post, Path: "/office/applications/:ref/notes/seen", Action: access.NoteCase, Handle: SeeNotes},
	{Method: site.Post, Path: "/office/applications/:ref/hand", Action: access.GiveInHand, Handle: HandTo},

	{Method: site.Post, Path: "/office/rounds/:round/bulk", Action: access.SeeRound, Large: true, Handle: BeginBulk},
	{Method: site.Post, Path: "/office/bulk", Action: access.ShapeList, Large: true, Handle: BeginBulk},
	{Method: site.Get, Path: "/office/bulk", Action: access.ShapeList, Handle: Bulks},
	{Method: site.Get, Path: "/office/bulk/:bulk", Action: access.ShapeList, Handle: Bulk},
	{Method: site.Get, Path: "/office/bulk/:bulk/progress", Action: access.ShapeList, Handle: BulkProgress},
	{Method: site.Get, Path: "/office/bulk/:bulk/report.csv", Action: access.ShapeList, Handle: BulkReport},
	{Method: site.Post, Path: "/office/bulk/:bulk", Action: access.ShapeList, Handle: TellBulk},
	{Method: site.Post, Path: "/office/bulk/:bulk/do", Action: access.ShapeList, Handle: DoBulk},
	{Method: site.Post, Path: "/office/bulk/:bulk/stop", Action: access.ShapeList, Handle: StopBulk},
	{Method: site.Post, Path: "/office/bulk/:bulk/one", Action: access.ShapeList, Handle: StopOne},
	{Method: site.Post, Path: "/office/bulk/:bulk/undo", Action: access.ShapeList, Handle: UndoBulk},
}}
