package inspect

import (
	"archive/zip"
	"encoding/xml"
	"io"
	"os"
	"strconv"
	"strings"
)

// mostContent is how much of an OpenDocument sheet is unfolded, in bytes.
const mostContent = 64 << 20

// openSheet reads the first table of an OpenDocument spreadsheet: the text of each cell as
// the program that made it shows it, its rows and cells repeated as they say (OASIS ODF
// 1.2, part 1, section 9.1). Rows and cells that are empty to the end are left out.
func openSheet(file *os.File) (t Table, err error) {
	st, err := file.Stat()
	if err != nil {
		return t, err
	}
	pkg, err := zip.NewReader(file, st.Size())
	if err != nil {
		return t, err
	}
	part, err := pkg.Open("content.xml")
	if err != nil {
		return t, err
	}
	defer part.Close()
	d := xml.NewDecoder(io.LimitReader(part, mostContent))
	var row []string
	var cell strings.Builder
	var rows, cells, tables, notes, paras int // repeated so often; depth
	blank := 0                                // rows without anything, not yet known to stand before others
	for {
		tok, err := d.Token()
		if err == io.EOF && tables == 0 && t.Rows != nil {
			return t, nil
		}
		if err != nil {
			return t, err
		}
		switch x := tok.(type) {
		case xml.StartElement:
			switch x.Name.Local {
			case "table":
				if tables++; tables == 1 {
					t.Name = attr(x, "name")
				}
			case "table-row":
				row, rows = nil, repeated(x, "number-rows-repeated", MostRows+1)
			case "table-cell", "covered-table-cell":
				cell.Reset()
				cells = repeated(x, "number-columns-repeated", MostColumns+1)
			case "annotation":
				notes++
			case "p":
				if paras++; notes == 0 && cell.Len() > 0 {
					cell.WriteByte('\n')
				}
			case "s":
				cell.WriteString(strings.Repeat(" ", repeated(x, "c", mostCell)))
			}
		case xml.CharData:
			if notes == 0 && cells > 0 && paras > 0 && cell.Len() < 4*mostCell {
				cell.WriteString(string(x))
			}
		case xml.EndElement:
			switch x.Name.Local {
			case "annotation":
				notes--
			case "p":
				paras--
			case "table-cell", "covered-table-cell":
				for range cells {
					if len(row) <= MostColumns+1 {
						row = append(row, cell.String())
					}
				}
				cells = 0
			case "table-row":
				for len(row) > 0 && row[len(row)-1] == "" {
					row = row[:len(row)-1]
				}
				if len(row) == 0 {
					blank += rows
					continue
				}
				for ; blank > 0; blank-- {
					if !t.add(nil) {
						return t, nil
					}
				}
				for range rows {
					if !t.add(row) {
						return t, nil
					}
				}
			case "table":
				if tables--; tables == 0 {
					return t, nil // the first alone
				}
			}
		}
	}
}

func attr(x xml.StartElement, name string) string {
	for _, a := range x.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// repeated is how often something stands, at most so often; 1 when it does not say.
func repeated(x xml.StartElement, name string, most int) int {
	n, err := strconv.Atoi(attr(x, name))
	if err != nil || n < 1 {
		return 1
	}
	return min(n, most)
}
