package journey_test

import (
	"flag"
	"runtime"
	"strconv"
	"testing"

	"ulvant/internal/web/webtest"
)

// Journeys wait more than they work: twice as many go on at once as there are processors,
// unless -parallel says otherwise.
func TestMain(m *testing.M) {
	flag.Parse()
	if p := flag.Lookup("test.parallel"); p.Value.String() == p.DefValue {
		p.Value.Set(strconv.Itoa(2 * runtime.GOMAXPROCS(0)))
	}
	webtest.Main(m)
}
