package main

import (
	"fmt"
	"os"
	"time"

	"github.com/chromedp/chromedp"

	"ulvant/internal/browser"
)

func must(err error) {
	if err != nil {
		fmt.Println(err)
		os.Exit(1)
	}
}

func main() {
	b, err := browser.Start()
	must(err)
	defer b.Stop()
	line, err := browser.NewLine("127.0.0.1:8080", 2_000_000/8, 20*time.Millisecond)
	must(err)
	p, err := b.Person("http://"+line.Addr, 1280, 800)
	must(err)
	must(p.As("imre.calloway@corvoe-foreshore-common.example", "shore and peat"))
	must(p.Open("/applications"))
	ref, err := browser.Eval[string](p, `document.querySelector('main a[href^="/applications/"]').getAttribute('href')`)
	must(err)
	fmt.Println(ref)
	must(p.Open(ref + "/sections/materials"))
	must(p.Do(chromedp.SetUploadFiles("form[data-upload] [type=file]", []string{"/tmp/big.pdf"})))
	time.Sleep(4 * time.Second)
	must(p.Shot("/tmp/shots/arriving.png"))
	must(p.Size(390, 800))
	time.Sleep(500 * time.Millisecond)
	must(p.Shot("/tmp/shots/arriving-390.png"))
	for _, h := range []string{"pause"} {
		_ = h
	}
	line.Cut()
	time.Sleep(2 * time.Second)
	must(p.Shot("/tmp/shots/arriving-cut.png"))
}
