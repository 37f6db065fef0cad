package designer

import (
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
)

// edit makes operations and goes to a place of the design, or draws the page
// again with what stands in the way.
func edit(r *site.Request, ops []design.Op, then string) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Rounds.Edit(ctx, tx, r.Round.ID, value(r, "path"), ops)
		return err
	})
	if err != nil {
		return refused(r, err)
	}
	return r.See(then)
}

func there(r *site.Request, at string) string {
	base := "/office/rounds/" + r.Round.Key + "/design"
	if at == "" {
		return base + "?tab=" + url.QueryEscape(tabOf(value(r, "tab")).Key)
	}
	return base + "?path=" + url.QueryEscape(at)
}

// refused draws the page again with a sentence.
func refused(r *site.Request, err error) error {
	var conflict design.Conflict
	var broken round.Broken
	st := state{typed: true, posed: map[string]string{}}
	switch {
	case errors.As(err, &conflict):
		member := conflict.Op.Path[strings.LastIndexByte(conflict.Op.Path, '/')+1:]
		st.posed[member] = "Somebody changed this while you had it open. Theirs is kept; yours is still in the box: set " +
			"it again if it should be yours."
		st.problem = "Nothing of this was kept: somebody else changed the same thing meanwhile."
	case errors.As(err, &broken):
		st.problem = "Nothing was kept: " + broken.Says() + "."
	case errors.Is(err, design.ErrGone), errors.Is(err, round.ErrOverlaid), errors.Is(err,
		round.ErrNothingToUndo), errors.Is(err, round.ErrNothingToRedo):
		st.problem = site.Sentence(err)
	default:
		return err
	}
	again, ferr := r.Rounds.ByID(r.Context, r.DB, r.Round.ID)
	if ferr != nil {
		return ferr
	}
	r.Round = again
	return draw(r, fiber.StatusConflict, st)
}

// Set keeps what was changed on the form of one thing, member by member.
func Set(r *site.Request) error {
	f, _, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	doc, err := tree(r.Round.Working)
	if err != nil {
		return err
	}
	at := value(r, "path")
	thing, ok := find(doc, at)
	if !ok {
		return refused(r, design.ErrGone)
	}
	t := tabOf(value(r, "tab"))
	b := newBuilder(f, at, thing, nil)
	var ops []design.Op
	whole := true
	for _, m := range membersOf(at, thing, t) {
		was := value(r, "was:"+m.Name)
		if was == "" {
			continue // not on the form that was posted
		}
		if !json.Valid([]byte(was)) {
			return draw(r, fiber.StatusBadRequest,
				state{problem: "The form did not arrive whole, and nothing of it was kept. Change it again."})
		}
		if m.As == design.Cells {
			ops = append(ops, b.cells(r, m, at, was)...)
			continue
		}
		v, done := b.read(r, m, m.Name)
		whole = whole && done
		if b.posed[m.Name] != "" || !done && m.As == design.Condition && v == nil && was != "null" {
			continue // a condition in pieces does not take a kept one out
		}
		if op, changed := setting(at, m.Name, v, was); changed {
			ops = append(ops, op)
		}
	}
	do := value(r, "do")
	if len(ops) > 0 {
		err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			_, err := r.Rounds.Edit(ctx, tx, r.Round.ID, at, ops)
			return err
		})
		if err != nil {
			return refused(r, err)
		}
	}
	if whole && len(b.posed) == 0 && do == "" {
		return r.See(there(r, at))
	}
	again, err := r.Rounds.ByID(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	r.Round = again
	status := fiber.StatusOK
	if len(b.posed) > 0 {
		status = fiber.StatusUnprocessableEntity
	}
	return draw(r, status, state{typed: true, do: do, posed: b.posed})
}

// setting is the operation for one member; changed is false when it is as it was.
func setting(at, name string, v any, was string) (op design.Op, changed bool) {
	path := name
	if at != "" {
		path = at + "/" + name
	}
	op = design.Op{Do: design.Set, Path: path, Was: json.RawMessage(was)}
	if v != nil {
		raw, err := json.Marshal(v)
		if err != nil {
			return op, false
		}
		op.Value = raw
	}
	return op, !design.Same(op.Value, op.Was)
}

// cells reads a table the office keeps: its columns and rows together.
func (b *builder) cells(r *site.Request, m design.Member, at, was string) []design.Op {
	text := value(r, m.Name)
	var before string
	if json.Unmarshal([]byte(was), &before) == nil &&
		strings.TrimSpace(before) == strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n")) {
		return nil
	}
	columns, rows, err := design.TableFromCSV(text)
	if err != nil {
		b.posed[m.Name] = site.Sentence(err)
		return nil
	}
	cols, _ := json.Marshal(columns)
	cells, _ := json.Marshal(rows)
	return []design.Op{{Do: design.Set, Path: at + "/columns", Value: cols},
		{Do: design.Set, Path: at + "/rows", Value: cells}}
}

// Add puts a new thing into a list, or a section that was kept.
func Add(r *site.Request) error {
	to, label := value(r, "to"), strings.TrimSpace(value(r, "label"))
	list := to[strings.LastIndexByte(to, '/')+1:]
	if id := value(r, "kept"); id != "" {
		return addKept(r, id)
	}
	if label == "" {
		return draw(r, fiber.StatusUnprocessableEntity, state{problem: "Give it a name first, then press Add."})
	}
	key, err := design.NewKey(r.Round.Working, label)
	if err != nil {
		return err
	}
	v, ok := fresh(list, key, label, form.Kind(value(r, "kind")))
	if !ok {
		return fiber.ErrNotFound
	}
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	op := design.Op{Do: design.Add, Path: to, Value: raw, Before: value(r, "before")}
	return edit(r, []design.Op{op}, there(r, to+"/"+string(key)))
}

// fresh is a new thing of a list, with what it cannot be without.
func fresh(list string, key form.Key, label string, kind form.Kind) (any, bool) {
	switch list {
	case "questions", "columns":
		if kind == "" {
			kind = form.Kinds()[0].Kind
		}
		if !slices.ContainsFunc(form.Kinds(), func(k form.KindInfo) bool { return k.Kind == kind }) {
			return nil, false
		}
		q := design.NewQuestion(kind, label)
		q.Key = key
		return q, true
	case "sections":
		return form.Section{Key: key, Label: label, Questions: []form.Question{}}, true
	case "calendar":
		return form.Moment{Key: key, Label: label}, true
	case "stages":
		return form.Stage{Key: key, Label: label, Does: form.Apply, From: form.Opens, To: form.Closes}, true
	case "streams":
		return form.Stream{Key: key, Label: label}, true
	case "applicants":
		return form.Option{Key: key, Label: label}, true
	case "gifts":
		return form.Gift{Key: key, Label: label, What: "goods"}, true
	case "awards":
		return form.Award{Key: key, Label: label, Places: 1, Public: true}, true
	case "lists":
		return form.List{Key: key, Label: label, Items: []form.Item{}}, true
	case "tables":
		return form.Table{Key: key, Label: label, Columns: []form.Column{}, Rows: []form.Row{}}, true
	case "figures":
		return form.Figure{Key: key, Label: label, Op: form.Sum}, true
	case "rules":
		return form.Rule{Key: key, Label: label, Yes: "This is met.", No: "This is not met.",
			Look: "Somebody at the office will look at it."}, true
	case "fees":
		return form.Fee{Key: key, Label: label, What: "entry"}, true
	case "codes":
		return form.FeeCode{Key: key, Code: label}, true
	case "criteria":
		return form.Criterion{Key: key, Label: label, Weight: 10,
			Steps: []string{"nothing shown", "some of it shown", "shown clearly"}}, true
	case "bodies":
		return form.Body{Key: key, Label: label}, true
	case "letters":
		return form.Letter{Key: key, Subject: label, Body: "Dear {{name}},\n\n{{office}}"}, true
	}
	return nil, false
}

// addKept puts a section that was kept at the end, with keys of its own where
// the old ones are taken.
func addKept(r *site.Request, id string) error {
	kept, err := r.Rounds.AllKept(r.Context, r.DB)
	if err != nil {
		return err
	}
	for _, k := range kept {
		if k.Name != id {
			continue
		}
		raw, key, err := design.Copy(r.Round.Working, k.Section)
		if err != nil {
			return err
		}
		return edit(r, []design.Op{{Do: design.Add, Path: "sections", Value: raw}}, there(r, "sections/"+key))
	}
	return draw(r, fiber.StatusNotFound, state{problem: "No section is kept under that name any more."})
}

// Keep keeps a section to be used again in other rounds.
func Keep(r *site.Request) error {
	doc, err := tree(r.Round.Working)
	if err != nil {
		return err
	}
	section, ok := find(doc, value(r, "path"))
	if !ok || section["questions"] == nil {
		return refused(r, design.ErrGone)
	}
	raw, err := json.Marshal(section)
	if err != nil {
		return err
	}
	name, _ := section["label"].(string)
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Rounds.Keep(ctx, tx, name, raw) }); err != nil {
		return err
	}
	r.Tell("“" + name + "” is kept; every round can use it.")
	return r.See(there(r, value(r, "path")))
}

// Duplicate puts a copy of a thing behind it.
func Duplicate(r *site.Request) error {
	doc, err := tree(r.Round.Working)
	if err != nil {
		return err
	}
	at := value(r, "path")
	thing, ok := find(doc, at)
	if !ok || !strings.Contains(at, "/") { // no thing of a list
		return refused(r, design.ErrGone)
	}
	raw, err := json.Marshal(thing)
	if err != nil {
		return err
	}
	raw, key, err := design.Copy(r.Round.Working, raw)
	if err != nil {
		return err
	}
	list := at[:strings.LastIndexByte(at, '/')]
	return edit(r, []design.Op{{Do: design.Add, Path: list, Value: raw, Before: next(doc, at)}}, there(r, list+"/"+key))
}

// siblings are the keys of the list that a path stands in.
func siblings(doc map[string]any, at string) (list string, keys []string) {
	i := strings.LastIndexByte(at, '/')
	if i < 0 {
		return "", nil
	}
	list = at[:i]
	holder, name := doc, list
	if j := strings.LastIndexByte(list, '/'); j >= 0 {
		holder, _ = find(doc, list[:j])
		name = list[j+1:]
	}
	things, _ := holder[name].([]any)
	for _, t := range things {
		m, _ := t.(map[string]any)
		k, _ := m["key"].(string)
		keys = append(keys, k)
	}
	return list, keys
}

func next(doc map[string]any, at string) string {
	_, keys := siblings(doc, at)
	key := at[strings.LastIndexByte(at, '/')+1:]
	for i, k := range keys {
		if k == key && i+1 < len(keys) {
			return keys[i+1]
		}
	}
	return ""
}

// Move brings a thing up or down, or before another; a question at the edge of
// its section goes into the next.
func Move(r *site.Request) error {
	doc, err := tree(r.Round.Working)
	if err != nil {
		return err
	}
	at := value(r, "path")
	list, keys := siblings(doc, at)
	key := at[strings.LastIndexByte(at, '/')+1:]
	op := design.Op{Do: design.Move, Path: at}
	place := -1
	for i, k := range keys {
		if k == key {
			place = i
		}
	}
	if place < 0 {
		return refused(r, design.ErrGone)
	}
	switch way := value(r, "way"); {
	case way == "" && value(r, "to") != "": // dropped on another
		op.To, op.Before = value(r, "to"), value(r, "before")
		if op.To == list {
			op.To = ""
		}
	case way == "up" && place > 0:
		op.Before = keys[place-1]
	case way == "down" && place+1 < len(keys):
		if place+2 < len(keys) {
			op.Before = keys[place+2]
		}
	case strings.HasSuffix(list, "/questions"):
		other, before := neighbour(doc, list, way)
		if other == "" {
			return r.See(there(r, at))
		}
		op.To, op.Before = other, before
	default:
		return r.See(there(r, at))
	}
	to := list
	if op.To != "" {
		to = op.To
	}
	return edit(r, []design.Op{op}, there(r, to+"/"+key))
}

// neighbour is the section above or below, and where a question goes in it.
func neighbour(doc map[string]any, list, way string) (to, before string) {
	_, keys := siblings(doc, strings.TrimSuffix(list, "/questions"))
	section := strings.Split(list, "/")[1]
	for i, k := range keys {
		if k != section {
			continue
		}
		if way == "up" && i > 0 {
			return "sections/" + keys[i-1] + "/questions", ""
		}
		if way == "down" && i+1 < len(keys) {
			to = "sections/" + keys[i+1] + "/questions"
			_, inside := siblings(doc, to+"/x")
			if len(inside) > 0 {
				before = inside[0]
			}
			return to, before
		}
	}
	return "", ""
}

// Remove takes a thing out; undo brings it back.
func Remove(r *site.Request) error {
	at := value(r, "path")
	list := at[:max(strings.LastIndexByte(at, '/'), 0)]
	holder := list[:max(strings.LastIndexByte(list, '/'), 0)]
	then := there(r, holder)
	if holder == "" {
		then = there(r, "")
	}
	return edit(r, []design.Op{{Do: design.Remove, Path: at}}, then)
}

// Undo and Redo turn the officer's own changes back and forth.
func Undo(r *site.Request) error { return turn(r, r.Rounds.Undo, "Undone: ") }

// Redo makes the change again that was undone last.
func Redo(r *site.Request) error { return turn(r, r.Rounds.Redo, "Done again: ") }

func turn(r *site.Request, do func(context.Context, *db.Tx, int64) (round.Change, error), says string) error {
	var c round.Change
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = do(ctx, tx, r.Round.ID)
		return err
	})
	if err != nil {
		return refused(r, err)
	}
	r.Tell(says + c.Sentence + ".")
	if c.Path == "" {
		return r.See(there(r, value(r, "path")))
	}
	return r.See(there(r, c.Path))
}
