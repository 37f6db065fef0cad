package form

import (
	"ulvant/core/condition"
)

// What a proof needs to know of a form beside its design.

// List finds a list for looking texts up; nil when there is none.
func (f *Form) List(k Key) condition.List {
	if l, ok := f.lists[k]; ok {
		return l
	}
	return nil
}

// Read brings what was typed to a plain question to its value; ok is false
// when it cannot be read, or the question is not plain.
func (f *Form) Read(q *Question, raw string) (condition.Value, bool) {
	if k := q.rule(); k.read != nil {
		return k.read(f, q, raw)
	}
	return condition.Value{}, false
}

// Steps are the numbers of a table's first column of numbers, rising.
func (f *Form) Steps(table Key) []condition.Number {
	if t := f.tables[table]; t != nil {
		return t.steps()
	}
	return nil
}

// CellOf reads one cell of a table the office keeps.
func CellOf(c Column, cell string) condition.Value { return cellValue(c, cell) }

// Place of a stage among all; "" is the first in which people apply. A section
// of a later place is not asked in it.
func (f *Form) Place(stage Key) int { return f.place(stage) }

// RuleStage is the place of the first stage in which all that a rule reads is
// known.
func (f *Form) RuleStage(i int) int { return f.rules[i].stage }
