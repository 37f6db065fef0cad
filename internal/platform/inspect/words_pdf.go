package inspect

import (
	"math"
	"os"
	"strings"
	"unicode/utf16"

	"github.com/ledongthuc/pdf"
)

// How far a page may go within itself.
const (
	mostDepth     = 8       // forms within forms
	mostOperators = 400_000 // of one page
)

// pdf reads what the pages of a PDF say in the order in which they say it (ISO 32000-1,
// 9.4), with the forms they draw, notes on them and fields that are filled in. Where
// words begin and end is seen by how far letters stand apart, as a page has no spaces.
func (t *taken) pdf(file *os.File) error {
	st, err := file.Stat()
	if err != nil {
		return err
	}
	r, err := pdf.NewReader(file, st.Size())
	if err != nil {
		return err
	}
	for n := 1; n <= r.NumPage(); n++ {
		if t.full() {
			break
		}
		t.pdfPage(r.Page(n))
		t.turn()
	}
	return nil
}

// pdfPage reads one page; what it could not be made of ends it and not the file.
func (t *taken) pdfPage(p pdf.Page) {
	defer func() {
		if recover() != nil {
			t.some = true
		}
	}()
	d := &drawing{t: t, fonts: map[string]*face{}}
	d.run(p.V.Key("Contents"), p.Resources(), plane{1, 0, 0, 1, 0, 0}, 0)
	notes := p.V.Key("Annots")
	for i := range min(notes.Len(), 2000) {
		note := notes.Index(i)
		for _, k := range []string{"T", "Contents", "V"} {
			if s := note.Key(k); s.Kind() == pdf.String {
				t.say("\n" + s.Text())
			}
		}
		if look := note.Key("AP").Key("N"); look.Kind() == pdf.Stream {
			t.say("\n")
			d.run(look, look.Key("Resources"), plane{1, 0, 0, 1, 0, 0}, 1)
		}
	}
}

// plane is a transformation [a b c d e f] (ISO 32000-1, 8.3.3).
type plane [6]float64

// then is p within q.
func (p plane) then(q plane) plane {
	return plane{
		p[0]*q[0] + p[1]*q[2], p[0]*q[1] + p[1]*q[3],
		p[2]*q[0] + p[3]*q[2], p[2]*q[1] + p[3]*q[3],
		p[4]*q[0] + p[5]*q[2] + q[4], p[4]*q[1] + p[5]*q[3] + q[5],
	}
}

// all that stands on a stack, the undermost first; none of it is left there.
func all(stack *pdf.Stack) []pdf.Value {
	args := make([]pdf.Value, stack.Len())
	for i := len(args) - 1; i >= 0; i-- {
		args[i] = stack.Pop()
	}
	return args
}

// planeOf reads six numbers; ok is false for anything else.
func planeOf(args []pdf.Value) (p plane, ok bool) {
	if len(args) != 6 {
		return p, false
	}
	for i, v := range args {
		p[i] = v.Float64()
	}
	return p, true
}

// face is a font with the widths of its codes, in thousandths of its size.
type face struct {
	font   pdf.Font
	says   map[string]string // what codes say by the font's own map; nil when it has none
	wide   bool              // two bytes to a code
	widths map[int]float64
	other  float64 // of codes that have none
}

// faceOf a font: simple ones list widths from a first code on, composite ones in runs
// (9.6.2.1 and 9.7.4.3). usual is what is taken of one that says nothing.
func faceOf(v pdf.Value) *face {
	const usual = 500
	f := &face{font: pdf.Font{V: v}, widths: map[int]float64{}, other: usual, says: saidBy(v)}
	if v.Key("Subtype").Name() != "Type0" {
		first, list := int(v.Key("FirstChar").Int64()), v.Key("Widths")
		for i := range min(list.Len(), 256) {
			f.widths[first+i] = list.Index(i).Float64()
		}
		return f
	}
	f.wide, f.other = true, 1000
	within := v.Key("DescendantFonts").Index(0)
	if dw := within.Key("DW"); !dw.IsNull() {
		f.other = dw.Float64()
	}
	list := within.Key("W")
	for i := 0; i+1 < list.Len() && len(f.widths) < 1<<16; {
		first := int(list.Index(i).Int64())
		if run := list.Index(i + 1); run.Kind() == pdf.Array {
			for k := range run.Len() {
				f.widths[first+k] = run.Index(k).Float64()
			}
			i += 2
			continue
		}
		last, w := int(list.Index(i+1).Int64()), list.Index(i+2).Float64()
		for k := first; k <= last && k-first < 1<<16; k++ {
			f.widths[k] = w
		}
		i += 3
	}
	return f
}

// width of what is shown, in thousandths, and how many codes and spaces it has.
func (f *face) width(raw string) (w float64, codes, spaces int) {
	step := 1
	if f.wide {
		step = 2
	}
	for i := 0; i+step <= len(raw); i += step {
		code := int(raw[i])
		if f.wide {
			code = code<<8 | int(raw[i+1])
		} else if code == ' ' {
			spaces++
		}
		codes++
		if has, ok := f.widths[code]; ok {
			w += has
		} else {
			w += f.other
		}
	}
	return w, codes, spaces
}

// unread reports a font whose codes are numbers of shapes and nobody says of which
// letters: its words cannot be known.
func (f *face) unread() bool {
	return f.wide && f.says == nil && f.font.V.Key("Encoding").Name() == "Identity-H"
}

// decode is what codes say.
func (f *face) decode(raw string) string {
	if f.says == nil {
		return f.font.Encoder().Decode(raw)
	}
	step := 1
	if f.wide {
		step = 2
	}
	var out strings.Builder
	for i := 0; i+step <= len(raw); i += step {
		out.WriteString(f.says[raw[i:i+step]])
	}
	return out.String()
}

// saidBy reads a font's map of codes to letters (9.10.3); nil when it has none.
func saidBy(font pdf.Value) (says map[string]string) {
	stream := font.Key("ToUnicode")
	if stream.Kind() != pdf.Stream {
		return nil
	}
	says = map[string]string{}
	defer func() { _ = recover() }() // what was read of a broken map stands
	pdf.Interpret(stream, func(stack *pdf.Stack, op string) {
		switch op {
		case "findresource": // leaves a dictionary to begin with, whichever
			stack.Pop()
			stack.Pop()
			stack.Push(font)
			return
		case "defineresource": // leaves what is defined
			stack.Pop()
			what := stack.Pop()
			stack.Pop()
			stack.Push(what)
			return
		case "endcmap":
			return
		}
		args := all(stack)
		switch op {
		case "endbfchar":
			for i := 0; i+1 < len(args); i += 2 {
				says[args[i].RawString()] = letters(args[i+1].RawString())
			}
		case "endbfrange":
			for i := 0; i+2 < len(args); i += 3 {
				addRange(says, args[i].RawString(), args[i+1].RawString(), args[i+2])
			}
		}
	})
	return says
}

// addRange says what the codes from one to another say: letters that follow each other,
// or those of a list.
func addRange(says map[string]string, from, to string, what pdf.Value) {
	if len(from) == 0 || len(from) != len(to) || len(from) > 2 {
		return
	}
	number := func(s string) (n int) {
		for i := range len(s) {
			n = n<<8 | int(s[i])
		}
		return n
	}
	first, last := number(from), number(to)
	for n := first; n <= last; n++ {
		code := string([]byte{byte(n >> 8), byte(n)}[2-len(from):])
		if what.Kind() == pdf.Array {
			says[code] = letters(what.Index(n - first).RawString())
			continue
		}
		dst := []byte(what.RawString())
		if len(dst) < 2 {
			return
		}
		low := int(dst[len(dst)-2])<<8 + int(dst[len(dst)-1]) + n - first
		dst[len(dst)-2], dst[len(dst)-1] = byte(low>>8), byte(low)
		says[code] = letters(string(dst))
	}
}

// letters of UTF-16, its larger byte first.
func letters(raw string) string {
	units := make([]uint16, len(raw)/2)
	for i := range units {
		units[i] = uint16(raw[2*i])<<8 | uint16(raw[2*i+1])
	}
	return string(utf16.Decode(units))
}

// drawing is a page while its operators are gone through.
type drawing struct {
	t         *taken
	fonts     map[string]*face
	operators int
	atX, atY  float64 // where the last letter ended on the page
	size      float64 // of it
	begun     bool
}

// pen is the state that q keeps and Q brings back, and the place of the text.
type pen struct {
	within     plane
	text, line plane
	face       *face
	size       float64
	lead       float64
	apart      float64 // Tc
	words      float64 // Tw
	stretch    float64 // Tz, as a share
}

// Share of its size by which letters must stand apart to be two words, and lines to be
// two lines (common practice, no source).
const (
	wordGap = 0.18
	lineGap = 0.45
)

// run goes through the operators of a page or of a form.
func (d *drawing) run(stream, resources pdf.Value, within plane, depth int) {
	if depth > mostDepth || stream.IsNull() {
		return
	}
	p := pen{within: within, stretch: 1}
	var kept []pen
	pdf.Interpret(stream, func(stack *pdf.Stack, op string) {
		args := all(stack)
		if d.operators++; d.operators > mostOperators || d.operators%1000 == 0 && d.t.full() {
			panic("a page without an end")
		}
		num := func(i int) float64 {
			if i < len(args) {
				return args[i].Float64()
			}
			return 0
		}
		down := func(x, y float64) {
			p.line = plane{1, 0, 0, 1, x, y}.then(p.line)
			p.text = p.line
		}
		show := func() {
			if len(args) > 0 {
				d.show(&p, args[len(args)-1].RawString())
			}
		}
		switch op {
		case "q":
			if len(kept) < 1000 {
				kept = append(kept, p)
			}
		case "Q":
			if n := len(kept); n > 0 {
				p, kept = kept[n-1], kept[:n-1]
			}
		case "cm":
			if m, ok := planeOf(args); ok {
				p.within = m.then(p.within)
			}
		case "BT":
			p.line = plane{1, 0, 0, 1, 0, 0}
			p.text = p.line
		case "Tf":
			if len(args) == 2 {
				p.face, p.size = d.face(resources, args[0].Name(), depth), num(1)
			}
		case "Tm":
			if m, ok := planeOf(args); ok {
				p.text, p.line = m, m
			}
		case "Td":
			down(num(0), num(1))
		case "TD":
			p.lead = -num(1)
			down(num(0), num(1))
		case "T*":
			down(0, -p.lead)
		case "TL":
			p.lead = num(0)
		case "Tc":
			p.apart = num(0)
		case "Tw":
			p.words = num(0)
		case "Tz":
			p.stretch = num(0) / 100
		case "Tj":
			show()
		case "'":
			down(0, -p.lead)
			show()
		case "\"":
			p.words, p.apart = num(0), num(1)
			down(0, -p.lead)
			show()
		case "TJ":
			if len(args) == 0 {
				return
			}
			for i := range args[0].Len() {
				if x := args[0].Index(i); x.Kind() == pdf.String {
					d.show(&p, x.RawString())
				} else {
					p.text = plane{1, 0, 0, 1, -x.Float64() / 1000 * p.size * p.stretch, 0}.then(p.text)
				}
			}
		case "Do":
			if len(args) == 0 {
				return
			}
			form := resources.Key("XObject").Key(args[0].Name())
			if form.Kind() != pdf.Stream || form.Key("Subtype").Name() != "Form" {
				return
			}
			inner := p.within
			if m := form.Key("Matrix"); m.Len() == 6 {
				list := make([]pdf.Value, 6)
				for i := range list {
					list[i] = m.Index(i)
				}
				if own, ok := planeOf(list); ok {
					inner = own.then(inner)
				}
			}
			own := form.Key("Resources")
			if own.IsNull() {
				own = resources
			}
			d.run(form, own, inner, depth+1)
		}
	})
}

// face of a name among resources; those of forms are looked up anew.
func (d *drawing) face(resources pdf.Value, name string, depth int) *face {
	v := resources.Key("Font").Key(name)
	if depth > 0 {
		return faceOf(v)
	}
	if d.fonts[name] == nil {
		d.fonts[name] = faceOf(v)
	}
	return d.fonts[name]
}

// show takes down what is shown, with a space or a new line before it where it stands
// apart from what was shown last.
func (d *drawing) show(p *pen, raw string) {
	if p.face == nil || raw == "" {
		return
	}
	at := p.text.then(p.within)
	tall := math.Abs(p.size) * math.Hypot(at[2], at[3])
	s := p.face.decode(raw)
	if p.face.unread() {
		s, d.t.some = "", true
	}
	if d.begun {
		gap, drop := math.Hypot(at[4]-d.atX, at[5]-d.atY), math.Abs(at[5]-d.atY)
		if math.Abs(at[1]) > math.Abs(at[0]) { // written upwards
			drop = math.Abs(at[4] - d.atX)
		}
		switch larger := max(tall, d.size); {
		case drop > lineGap*larger:
			d.t.say("\n")
		case gap > wordGap*larger && !strings.HasPrefix(s, " "):
			d.t.say(" ")
		}
	}
	d.t.say(s)
	d.t.letters(s, math.Round(tall*10)/10)
	w, codes, spaces := p.face.width(raw)
	tx := (w/1000*p.size + float64(codes)*p.apart + float64(spaces)*p.words) * p.stretch
	p.text = plane{1, 0, 0, 1, tx, 0}.then(p.text)
	end := p.text.then(p.within)
	d.atX, d.atY, d.size, d.begun = end[4], end[5], tall, true
}
