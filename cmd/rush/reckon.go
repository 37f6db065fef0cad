package main

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"
)

// reckon compares what applicants were told with what is kept.
func reckon(ctx context.Context, h *house, crowd []*writer, closes time.Time) error {
	d, err := h.open()
	if err != nil {
		return err
	}
	defer d.Close()
	var saves []took
	var faults []string
	retries, in, refused := 0, 0, 0
	for _, w := range crowd {
		saves = append(saves, w.saves...)
		retries += w.retries
		for _, f := range w.faults {
			faults = append(faults, w.who.Ref+": "+f)
		}
		var kept struct {
			Value string
			Sent  bool
			At    *time.Time
		}
		if err := d.GetContext(ctx, &kept, `
			SELECT n.value, e.seal_id IS NOT NULL AS sent, s.at FROM application a JOIN entry e ON e.application_id = a.id
			JOIN answer n ON n.entry_id = e.id AND n.question = 'describe' LEFT JOIN seal s ON s.id = e.seal_id WHERE a.ref = $1`, w.who.Ref); err != nil {
			return err
		}
		if w.acked != "" && kept.Value != w.acked && !slices.Contains(w.unacked, kept.Value) {
			faults = append(faults, fmt.Sprintf("%s: told that %q is kept, %q is", w.who.Ref, w.acked, kept.Value))
		}
		late := !w.began.Before(closes)
		switch {
		case kept.Sent && !kept.At.Before(closes):
			faults = append(faults, fmt.Sprintf("%s is in, and reached us at %s", w.who.Ref, kept.At))
		case kept.Sent && late:
			faults = append(faults, w.who.Ref+" was sent late and is in")
		case !kept.Sent && w.answered == http.StatusSeeOther:
			faults = append(faults, w.who.Ref+" was told it is in, and is not")
		case !kept.Sent && !late && closes.Sub(w.began) > 5*time.Second:
			faults = append(faults, fmt.Sprintf("%s began to send %s before the closing and is not in (answered %d)", w.who.Ref,
				closes.Sub(w.began), w.answered))
		}
		if kept.Sent {
			in++
		} else {
			refused++
		}
	}
	fmt.Printf("%d tries were made again\n", retries)
	times("all saves", saves)
	lastMinute := closes.Add(-h.plan.last)
	times("those before the last minute", slices.DeleteFunc(slices.Clone(saves),
		func(t took) bool { return t.at.After(lastMinute) }))
	times("those of the last minute", slices.DeleteFunc(slices.Clone(saves),
		func(t took) bool { return !t.at.After(lastMinute) }))
	for from := closes.Add(-h.plan.last - h.plan.write); from.Before(closes); from = from.Add(10 * time.Second) {
		part := slices.DeleteFunc(slices.Clone(saves), func(t took) bool {
			return t.at.Before(from) ||
				!t.at.Before(from.Add(10*time.Second))
		})
		times(fmt.Sprintf("  from %s before the closing", closes.Sub(from)), part)
	}
	fmt.Printf("%d are in, %d came too late and are not\n", in, refused)
	for _, f := range faults {
		fmt.Println("FAULT", f)
	}
	if len(faults) > 0 {
		return fmt.Errorf("%d faults", len(faults))
	}
	fmt.Println("every answer that was said to be kept is there; every send in time is in; none late is")
	return nil
}

// times says how long answers took.
func times(what string, saves []took) {
	if len(saves) == 0 {
		return
	}
	list := make([]time.Duration, len(saves))
	for i, t := range saves {
		list[i] = t.dur
	}
	slices.Sort(list)
	at := func(share int) time.Duration {
		return list[min(len(list)-1, len(list)*share/100)].Round(100 * time.Microsecond)
	}
	fmt.Printf("%s: %d, half within %s, 95%% within %s, 99%% within %s, the slowest %s\n", what, len(list), at(50),
		at(95), at(99), list[len(list)-1].Round(time.Millisecond))
}

const floodTime = 15 * time.Second

// flood saves flat out, and lets pgbench do the bare UPDATE on the same server.
func flood(ctx context.Context, h *house, crowd []*writer) error {
	const hands = 16
	var n atomic.Int64
	var all sync.WaitGroup
	end := time.Now().Add(floodTime)
	for i := range hands {
		all.Go(func() {
			for j := i; time.Now().Before(end); j += hands {
				if j >= len(crowd) {
					j = i
				}
				crowd[j].save() // no other hand has this one
				n.Add(1)
			}
		})
	}
	all.Wait()
	ours := float64(n.Load()) / floodTime.Seconds()
	fmt.Printf("saved answers: %.0f a second, %d at a time\n", ours, hands)
	d, err := h.open()
	if err != nil {
		return err
	}
	defer d.Close()
	var low, high int64
	if err := d.QueryRowContext(ctx, `SELECT min(entry_id), max(entry_id) FROM answer`).Scan(&low, &high); err != nil {
		return err
	}
	script := filepath.Join(h.dir, "update.sql")
	sql := fmt.Sprintf("\\set entry random(%d, %d)\nUPDATE answer SET version = version + 1, value = 'We replant the "+
		"reed bed in two seasons, version ' || version, at = now() WHERE entry_id = :entry AND question = 'describe' AND row_key = '' AND column_key = '';\n", low, high)
	if err := os.WriteFile(script, []byte(sql), 0o644); err != nil {
		return err
	}
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pgbench")
	if len(found) == 0 {
		return fmt.Errorf("pgbench is not installed")
	}
	out, err := exec.CommandContext(ctx, found[len(found)-1], "-h", "127.0.0.1", "-p", strconv.Itoa(h.port), "-U",
		"ulvant_app", "-n", "-f", script, "-c", strconv.Itoa(hands), "-j", "2", "-T", "15", "rush").CombinedOutput()
	if err != nil {
		return fmt.Errorf("pgbench: %w\n%s", err, out)
	}
	for _, line := range strings.Split(string(out), "\n") {
		if rest, ok := strings.CutPrefix(line, "tps = "); ok {
			bare, _ := strconv.ParseFloat(strings.Fields(rest)[0], 64)
			fmt.Printf("pgbench, the bare UPDATE: %.0f a second; ours is 1/%.1f of it\n", bare, bare/ours)
		}
	}
	return nil
}
