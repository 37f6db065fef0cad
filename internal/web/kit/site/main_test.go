package site_test

import (
	"testing"
	"ulvant/internal/web/webtest"
)

func TestMain(m *testing.M) { webtest.Main(m) }
