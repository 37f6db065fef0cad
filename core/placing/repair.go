package placing

import "slices"

// draft is a placing under way: who has what, and what is still open.
type draft struct {
	w     *pricing
	set   [][]int32 // of each person
	given []bool
	free  []int
	left  int64     // of the fund; boundless where there is none
	of    [][]int32 // pairs of each award
	try   []int32
}

func (w *pricing) draft(sets [][]int32) *draft {
	d := &draft{w: w, set: make([][]int32, len(w.p.People)), given: make([]bool, len(w.p.Pairs)),
		free: slices.Clone(w.places), left: boundlessMoney,
		of: w.ofAward()}
	if w.p.Fund > 0 {
		d.left = w.p.Fund
	}
	for i, set := range sets {
		d.change(i, set)
	}
	return d
}

// ofAward lists the pairs of each award.
func (w *pricing) ofAward() [][]int32 {
	if w.byAward == nil {
		w.byAward = make([][]int32, len(w.p.Awards))
		for x, pair := range w.p.Pairs {
			if !pair.Barred {
				w.byAward[pair.Award] = append(w.byAward[pair.Award], int32(x))
			}
		}
	}
	return w.byAward
}

// change gives a person another set.
func (d *draft) change(person int, set []int32) {
	for _, x := range d.set[person] {
		d.given[x] = false
		a := d.w.p.Pairs[x].Award
		d.free[a]++
		d.left += d.w.cost[a]
	}
	d.set[person] = append(d.set[person][:0], set...)
	for _, x := range d.set[person] {
		d.given[x] = true
		a := d.w.p.Pairs[x].Award
		d.free[a]--
		d.left -= d.w.cost[a]
	}
}

func (d *draft) worth(person int) (sum int64) {
	for _, x := range d.set[person] {
		sum += d.w.p.Pairs[x].Worth
	}
	return sum
}

// without is the best a person can have of what they have and what is open, one pair
// left out; extra is an award with one place more.
func (d *draft) without(person int, out int32, extra int) ([]int32, int64) {
	return d.w.s.bestSet(person, func(x int32) (int64, bool) {
		a := d.w.p.Pairs[x].Award
		return d.w.p.Pairs[x].Worth, x != out && (d.given[x] || d.free[a] > 0 || a == extra)
	})
}

// with is the best a person can have with one pair in it; ok is false where they
// cannot have it.
func (d *draft) with(person int, in int32) (set []int32, sum int64, ok bool) {
	const surely = int64(1) << 50
	set, sum = d.w.s.bestSet(person, func(x int32) (int64, bool) {
		v := d.w.p.Pairs[x].Worth
		if x == in {
			return v + surely, true
		}
		return v, d.given[x] || d.free[d.w.p.Pairs[x].Award] > 0
	})
	return set, sum - surely, sum >= surely
}

// round makes a placing of the sets that people take at the prices: whoever loses least
// gives way, and what is left open is given on.
func (w *pricing) round() []int32 {
	d := w.draft(w.taken)
	for a := range d.free {
		d.relieve(a)
	}
	d.afford()
	d.fill()
	return d.list()
}

func (d *draft) list() (out []int32) {
	for x, is := range d.given {
		if is {
			out = append(out, int32(x))
		}
	}
	return out
}

// relieve an award of those for whom there is no place.
func (d *draft) relieve(a int) {
	type loss struct {
		pair int32
		sum  int64
	}
	for d.free[a] < 0 {
		var losses []loss
		for _, x := range d.of[a] {
			if pair := d.w.p.Pairs[x]; d.given[x] && !pair.Held {
				_, rest := d.without(pair.Person, x, -1)
				losses = append(losses, loss{x, d.worth(pair.Person) - rest})
			}
		}
		if losses == nil {
			return
		}
		slices.SortStableFunc(losses, func(a, b loss) int { return int(min(1, max(-1, a.sum-b.sum))) })
		x := losses[0].pair
		set, _ := d.without(d.w.p.Pairs[x].Person, x, -1)
		d.change(d.w.p.Pairs[x].Person, set)
	}
}

// afford takes back what the fund does not reach for: what is worth least for a coin.
func (d *draft) afford() {
	if d.left >= 0 {
		return
	}
	list := d.list()
	slices.SortStableFunc(list, func(a, b int32) int {
		pa, pb := d.w.p.Pairs[a], d.w.p.Pairs[b]
		va, vb := float64(pa.Worth)/float64(max(1, d.w.cost[pa.Award])), float64(pb.Worth)/float64(max(1, d.w.cost[pb.Award]))
		switch {
		case va < vb:
			return -1
		case va > vb:
			return 1
		}
		return 0
	})
	for _, x := range list {
		if d.left >= 0 {
			return
		}
		if !d.w.p.Pairs[x].Held {
			person := d.w.p.Pairs[x].Person
			d.change(person, slices.DeleteFunc(slices.Clone(d.set[person]), func(y int32) bool { return y == x }))
		}
	}
}

// fill gives on what is open, the most gain first.
func (d *draft) fill() {
	for again := true; again; {
		again = false
		for i := range d.set {
			if d.w.s.of[i] == nil {
				continue
			}
			if set, sum := d.without(i, -1, -1); sum > d.worth(i) && d.affords(i, set) {
				d.change(i, set)
				again = true
			}
		}
	}
}

// affords reports that the fund reaches for another set of a person.
func (d *draft) affords(person int, set []int32) bool {
	if d.w.p.Fund == 0 {
		return true
	}
	left := d.left
	for _, x := range d.set[person] {
		left += d.w.cost[d.w.p.Pairs[x].Award]
	}
	for _, x := range set {
		left -= d.w.cost[d.w.p.Pairs[x].Award]
	}
	return left >= 0
}

// swap has one person take a place from another where both together gain, until
// nobody can. It reports whether anything changed.
func (d *draft) swap() (changed bool) {
	for a := range d.of {
		for _, x := range d.of[a] {
			if d.given[x] || d.free[a] > 0 {
				continue
			}
			i := d.w.p.Pairs[x].Person
			set, sum, ok := d.with(i, x)
			gain := sum - d.worth(i)
			if !ok || gain <= 0 {
				continue
			}
			d.try = append(d.try[:0], set...)
			if j, y := d.cheapest(a, gain); j >= 0 && d.exchange(i, d.try, j, y) {
				changed = true
			}
		}
	}
	return changed
}

// cheapest is who loses least by giving a place of an award up, less than most.
func (d *draft) cheapest(a int, most int64) (person int, pair int32) {
	person = -1
	for _, y := range d.of[a] {
		if !d.given[y] || d.w.p.Pairs[y].Held {
			continue
		}
		j := d.w.p.Pairs[y].Person
		if _, rest := d.without(j, y, -1); d.worth(j)-rest < most {
			most, person, pair = d.worth(j)-rest, j, y
		}
	}
	return person, pair
}

// exchange gives i a set and has j choose anew without a pair; it is undone where they
// do not gain together, or the fund does not reach.
func (d *draft) exchange(i int, set []int32, j int, y int32) bool {
	was, its := d.worth(i)+d.worth(j), slices.Clone(d.set[i])
	theirs := slices.Clone(d.set[j])
	d.change(j, slices.DeleteFunc(slices.Clone(theirs), func(x int32) bool { return x == y }))
	d.change(i, set)
	rest, _ := d.without(j, y, -1)
	d.change(j, rest)
	if d.worth(i)+d.worth(j) > was && d.left >= 0 && d.covers(set) {
		return true
	}
	d.change(i, its)
	d.change(j, theirs)
	return false
}

// within reports that no award has more than its places.
func (d *draft) within() bool {
	return !slices.ContainsFunc(d.free, func(n int) bool { return n < 0 })
}

// covers reports that no award of a set has more than its places.
func (d *draft) covers(set []int32) bool {
	for _, x := range set {
		if d.free[d.w.p.Pairs[x].Award] < 0 {
			return false
		}
	}
	return true
}

// polish improves a placing by swaps and keeps it.
func (w *pricing) polish(given []int32) {
	sets := make([][]int32, len(w.p.People))
	for _, x := range given {
		i := w.p.Pairs[x].Person
		sets[i] = append(sets[i], x)
	}
	d := w.draft(sets)
	for range 20 {
		changed := d.swap()
		d.fill()
		if !changed {
			break
		}
	}
	w.keep(d.list())
}
