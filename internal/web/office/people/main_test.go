package people_test

import (
	"testing"

	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }
