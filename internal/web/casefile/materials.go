package casefile

import (
	"fmt"
	"html/template"

	"ulvant/core/form"
	"ulvant/core/seal"
	"ulvant/internal/web/kit/view"
)

// Materials draws up the files of a seal for looking at them; each is fetched from
// base, its number and query.
func Materials(f *form.Form, doc *seal.Document, base, query string) (m view.Materials) {
	for _, x := range doc.Files {
		title, said := doc.Titled(f, x)
		part := doc.Excerpt(x)
		m.Add(view.Shown{Facts: x.Facts, Name: x.Name, Size: x.Size, Title: title, Said: said, From: part.From, To: part.To,
			Href: template.URL(fmt.Sprintf("%s/%d%s", base, x.ID, query))})
	}
	return m
}
