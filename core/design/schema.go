package design

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// enums are the words that a type of text can be.
func enums() map[reflect.Type][]string {
	words := func(list any) []string {
		v := reflect.ValueOf(list)
		out := make([]string, v.Len())
		for i := range out {
			out[i] = v.Index(i).String()
		}
		return out
	}
	var kinds []form.Kind
	for _, k := range form.Kinds() {
		kinds = append(kinds, k.Kind)
	}
	return map[reflect.Type][]string{
		reflect.TypeFor[form.Kind]():      words(kinds),
		reflect.TypeFor[form.Nature]():    words([]form.Nature{form.Fact, form.Chosen}),
		reflect.TypeFor[form.Blank]():     words([]form.Blank{form.Required, form.MeansNo, form.MeansUnknown}),
		reflect.TypeFor[form.Audience]():  words([]form.Audience{form.ToReaders, form.ToPublic, form.ToOffice}),
		reflect.TypeFor[form.Purpose]():   words([]form.Purpose{form.ForMatching, form.ForReports, form.ForSurvey}),
		reflect.TypeFor[form.NonAnswer](): words(form.NonAnswers),
		reflect.TypeFor[form.Sure]():      words([]form.Sure{form.Estimated, form.Expected}),
		reflect.TypeFor[form.NotesRule](): words([]form.NotesRule{form.NotesStay, form.NotesDeclined, form.NotesAll}),
		reflect.TypeFor[form.Work](): words([]form.Work{form.Apply, form.Check, form.Read, form.Interview,
			form.Votes, form.Decide}),
		reflect.TypeFor[form.Among](): words([]form.Among{form.AmongEligible, form.AmongChosen}),
		reflect.TypeFor[form.CountBy](): words(
			[]form.CountBy{form.CountVotes, form.CountShares, form.CountRanked, form.CountPoints},
		),
		reflect.TypeFor[form.GoodOf](): words([]form.GoodOf{form.GoodOfOne, form.GoodOfCost}),
		reflect.TypeFor[form.RestOf](): words([]form.RestOf{form.RestKept, form.RestByVotes}),
		reflect.TypeFor[form.FigureOp](): words([]form.FigureOp{form.Sum, form.Difference, form.Share, form.AgeOn,
			form.MonthsTo, form.CountWhere, form.AnyRow, form.EveryRow, form.LeastOf, form.MostOf, form.StepOf}),
		reflect.TypeFor[form.Rounding]():   words([]form.Rounding{form.Nearest, form.NextUp, form.NextDown}),
		reflect.TypeFor[condition.Rel]():   words(condition.Rels),
		reflect.TypeFor[condition.Fixed](): words(condition.EveryFixed),
		reflect.TypeFor[slot.Kind]():       words(slot.Kinds),
		reflect.TypeFor[slot.Wish]():       words([]slot.Wish{slot.NotAccepted, slot.BetterNot}),
	}
}

const (
	keyPattern  = `^[a-z][a-z0-9]*(-[a-z0-9]+)*$`
	datePattern = `^[0-9]{4}-[0-9]{2}-[0-9]{2}$`
	wallPattern = `^([0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}(:[0-9]{2})?)?$`
)

// JSONSchema is the published schema of the design document, JSON Schema
// 2020-12, made from the types that read it, so that the two cannot part.
func JSONSchema() ([]byte, error) {
	s := &schema{defs: map[string]any{}, enums: enums()}
	s.of(reflect.TypeFor[form.Design]())
	doc := s.defs["Design"].(map[string]any)
	delete(s.defs, "Design")
	doc["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	doc["title"] = "Design of a funding round"
	doc["description"] = "Everything that defines a round. Keys name things for ever; a condition reads only what " +
		"stands before it in the document's order."
	doc["properties"].(map[string]any)["schema"] = map[string]any{"const": form.Schema}
	doc["$defs"] = s.defs
	return json.MarshalIndent(doc, "", "  ")
}

type schema struct {
	defs  map[string]any
	enums map[reflect.Type][]string
}

func (s *schema) of(t reflect.Type) map[string]any {
	if words, ok := s.enums[t]; ok {
		return map[string]any{"enum": words}
	}
	switch t {
	case reflect.TypeFor[condition.Key]():
		return map[string]any{"type": "string", "pattern": keyPattern}
	case reflect.TypeFor[calendar.Date]():
		return map[string]any{"type": "string", "pattern": datePattern}
	case reflect.TypeFor[calendar.Wall]():
		return map[string]any{"type": "string", "pattern": wallPattern}
	}
	switch t.Kind() {
	case reflect.Pointer:
		return s.of(t.Elem())
	case reflect.Slice:
		return map[string]any{"type": "array", "items": s.of(t.Elem())}
	case reflect.String:
		return map[string]any{"type": "string"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Int64, reflect.Int32:
		return map[string]any{"type": "integer"}
	case reflect.Struct:
		return s.object(t)
	}
	panic("design: no schema for " + t.String())
}

// object puts a struct among the definitions, once, and refers to it.
func (s *schema) object(t reflect.Type) map[string]any {
	name := strings.Map(func(r rune) rune {
		if strings.ContainsRune("[]./*", r) {
			return -1
		}
		return r
	}, strings.ReplaceAll(t.Name(), "ulvant/core/form.", ""))
	if strings.HasSuffix(t.PkgPath(), "/slot") {
		name = "Slot" + name // both packages have Limits
	}
	ref := map[string]any{"$ref": "#/$defs/" + name}
	if _, there := s.defs[name]; there {
		return ref
	}
	out := map[string]any{"type": "object", "additionalProperties": false}
	s.defs[name] = out
	properties, required := map[string]any{}, []string{}
	for i := range t.NumField() {
		tag := t.Field(i).Tag.Get("json")
		member, how, _ := strings.Cut(tag, ",")
		properties[member] = s.of(t.Field(i).Type)
		if how == "" {
			required = append(required, member)
			if t.Field(i).Type.Kind() == reflect.Slice { // an empty list is written as null
				properties[member] = map[string]any{
					"type":  []string{"array", "null"},
					"items": s.of(t.Field(i).Type.Elem()),
				}
			}
		}
	}
	out["properties"] = properties
	if len(required) > 0 {
		slices.Sort(required)
		out["required"] = required
	}
	if t == reflect.TypeFor[condition.Cond]() {
		out["maxProperties"] = 1 // one of its members, or none: always
	}
	return ref
}
