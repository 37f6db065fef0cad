package designer

import (
	"strings"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/phrase"
)

// box draws a list of the document as an outline.
func (p *page) box(doc map[string]any, list string, faults []form.Fault) box {
	t, _ := design.ThingIn(list)
	b := box{Path: list, Name: t.Name, Title: titles[list]}
	things, _ := doc[list].([]any)
	p.outline(&b, things, list, 0, faults)
	return b
}

var titles = map[string]string{"gifts": "What else is given", "calendar": "Dates", "stages": "Stages",
	"applicants": "Kinds of applicant", "streams": "Streams", "rules": "Rules",
	"sections": "Sections and questions", "awards": "Awards", "lists": "Lists", "tables": "Tables the office keeps",
	"figures": "Figures", "fees": "Fees", "codes": "Codes",
	"criteria": "Criteria", "bodies": "Bodies that review in turn", "letters": "Letters"}

func (p *page) outline(b *box, things []any, list string, depth int, faults []form.Fault) {
	last := list[strings.LastIndexByte(list, '/')+1:]
	t, _ := design.ThingIn(last)
	if last == "columns" {
		t = design.Thing{Title: "label"}
	}
	for _, x := range things {
		m, _ := x.(map[string]any)
		key, _ := m["key"].(string)
		label, _ := m[t.Title].(string)
		it := item{Path: list + "/" + key, Key: key, Label: label, List: list, Depth: depth, On: list+"/"+key == p.At}
		if it.Label == "" {
			it.Label = key
		}
		it.Note = noteOf(last, m)
		for _, f := range faults {
			if f.Path == it.Path {
				it.Faults++
			}
		}
		if it.On {
			p.List, p.CanMove, p.AtName = list, true, t.Name
			if last == "columns" {
				p.AtName = "column"
			}
		}
		b.Items = append(b.Items, it)
		if last == "sections" {
			questions, _ := m["questions"].([]any)
			p.outline(b, questions, it.Path+"/questions", depth+1, faults)
		}
		if columns, _ := m["columns"].([]any); last == "questions" && len(columns) > 0 &&
			strings.HasPrefix(p.At+"/", it.Path+"/") {
			p.outline(b, columns, it.Path+"/columns", depth+1, faults)
		}
	}
}

// noteOf says shortly what matters of a thing.
func noteOf(list string, m map[string]any) string {
	switch list {
	case "questions", "columns":
		s, _ := m["kind"].(string)
		s = strings.Replace(s, "yesno", "yes/no", 1)
		if m["asked"] != nil {
			s += ", if"
		}
		return s
	case "sections":
		q, _ := m["questions"].([]any)
		s := phrase.Count(int64(len(q)), "question", "questions")
		if m["asked"] != nil {
			s += ", if"
		}
		return s
	case "calendar":
		s, _ := m["at"].(string)
		return strings.Replace(s, "T", " ", 1)
	case "criteria":
		return numberText(m["weight"]) + "%"
	case "awards":
		return phrase.Count(wholeOf(m["places"]), "place", "places")
	case "figures":
		s, _ := m["op"].(string)
		return s
	}
	return ""
}
