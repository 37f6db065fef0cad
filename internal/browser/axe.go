package browser

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"io"
	"strings"
)

// axe-core 4.14.1 (MPL-2.0, LICENSE-axe-core.txt), a general checker of what
// people who cannot see or point need of a page.
//
//go:embed axe.min.js.gz
var axeSource []byte

// Accessible runs axe-core over the page that is open, in its WCAG 2.2 rules of
// levels A and AA, and lists what it finds, each with the first place. Colours do not hang
// on the width of a window: contrast, half of the work, is looked at in wide ones alone.
func (p *Person) Accessible() ([]string, error) {
	has, err := Eval[bool](p, "!!window.axe")
	if err != nil {
		return nil, err
	}
	if !has { // once for a page, whatever sizes it is looked at
		z, err := gzip.NewReader(bytes.NewReader(axeSource))
		if err != nil {
			return nil, err
		}
		source, err := io.ReadAll(z)
		if err != nil {
			return nil, err
		}
		if _, err := Eval[bool](p, "(() => { "+string(source)+"; return true })()"); err != nil {
			return nil, fmt.Errorf("axe-core: %w", err)
		}
	}
	text, err := Eval[string](p, `axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], resultTypes: ['violations'], rules: {'color-contrast': {enabled: innerWidth > 1000}}})
		.then(r => r.violations.map(v => v.id + ' × ' + v.nodes.length + ': ' + v.help + ' at ' + v.nodes[0].target.join(' ') + ' ' + (v.nodes[0].any[0]?.message ?? '')).join('\n'))`)
	if err != nil || text == "" {
		return nil, err
	}
	return strings.Split(text, "\n"), nil
}
