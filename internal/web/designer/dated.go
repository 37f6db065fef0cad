package designer

import (
	"encoding/json"
	"strconv"
	"strings"

	"ulvant/core/design"
	"ulvant/core/money"
)

// readDated reads what holds from, or until, a date of the calendar, which may be
// written by its key or as it is called; problem says what is wrong with it.
func (b *builder) readDated(as design.As, left, right string) (out map[string]any, problem string) {
	key := ""
	for _, m := range b.form.Design.Calendar {
		if string(m.Key) == left || strings.EqualFold(m.Label, left) {
			key = string(m.Key)
		}
	}
	if key == "" {
		return nil, "There is no such date in the calendar"
	}
	if as == design.Rises {
		n, ok := money.Parse(right, b.form.Design.Currency)
		if !ok || n < 0 {
			return nil, "After the equals sign stands what it costs from then on"
		}
		return map[string]any{"from": key, "amount": json.Number(strconv.FormatInt(n, 10))}, ""
	}
	n, err := strconv.Atoi(strings.TrimSpace(strings.TrimSuffix(right, "%")))
	if err != nil || n < 1 || n > 100 {
		return nil, "After the equals sign stands a share, 1 to 100 percent"
	}
	return map[string]any{"until": key, "percent": json.Number(strconv.Itoa(n))}, ""
}
