// Package config reads the settings, from flags or the environment, and
// refuses a wrong one with a sentence. docs/settings.md is made from this
// list, and a test compares them.
package config

import (
	"encoding/hex"
	"errors"
	"flag"
	"fmt"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Config is every setting.
type Config struct {
	Listen       string        // host:port
	BaseURL      string        // as people reach it; in mails
	DatabaseURL  string        // "" for a private server (demo only)
	OwnerURL     string        // for migrating; DatabaseURL when ""
	DataDir      string        // files, keys, and the private server's data
	PGPort       int           // of the private server
	SMTP         string        // host:port; the tray's in demo
	MailFrom     string        //
	Register     string        // base address of the register of bodies; the stand-in's in demo
	Bounces      string        // host:port on which mails that come back are taken; "" for nowhere
	Texts        string        // domain of the gateway that makes text messages of mails; "" for none
	Scanner      string        // address of a virus scanner, "" for none; the stand-in's in demo
	Declarations string        // base address of the service of declarations, "" for none; the stand-in's in demo
	Paydesk      string        // base address of the payment desk, "" for none; the stand-in's in demo
	PaydeskKey   []byte        // shared with it
	Officers     int           // of an organisation, who must confirm
	LookOverDays int           // working days within which the office looks an organisation over
	Connections  int           // database connections
	ConfirmLife  time.Duration // of a confirmation link
	LinkLife     time.Duration // of other personal links
	UploadLife   time.Duration // of a file that nothing more comes of
	SessionLife  time.Duration
	SessionIdle  time.Duration  // after which a session that nobody uses ends
	OfficeSecond bool           // whoever works at the office needs a second factor
	Proxies      []netip.Prefix // whose X-Forwarded-For is believed
	Key          []byte         // 64 bytes: HMAC key and Ed25519 seed; made in DataDir when not given
	SecureCookie bool
}

// Trusts reports an address of a proxy that the settings name.
func (c *Config) Trusts(address string) bool {
	a, err := netip.ParseAddr(address)
	if err != nil {
		return false
	}
	return slices.ContainsFunc(c.Proxies, func(p netip.Prefix) bool { return p.Contains(a.Unmap()) })
}

// Setting describes one setting for help and docs.
type Setting struct{ Env, Flag, Default, Means string }

// DefaultDataDir is where root and other users keep data: root's home is not
// enterable for user postgres.
func DefaultDataDir() string {
	if os.Getuid() == 0 {
		return "/var/lib/ulvant"
	}
	home, _ := os.UserHomeDir()
	return filepath.Join(home, ".local", "share", "ulvant")
}

// Settings lists them all.
func Settings() []Setting {
	return []Setting{
		{"ULVANT_LISTEN", "listen", "127.0.0.1:8080", "address and port to listen on"},
		{"ULVANT_BASE_URL", "base-url", "http://localhost:8080", "address by which people reach it; stands in mails"},
		{"DATABASE_URL", "database", "", "PostgreSQL to use; without it, demo starts a private one"},
		{"ULVANT_OWNER_URL", "owner-url", "", "the same database as a role that may change the schema; only for migrating"},
		{"ULVANT_DATA", "data", "/var/lib/ulvant as root, else ~/.local/share/ulvant",
			"folder for files, keys and the private PostgreSQL"},
		{"ULVANT_PG_PORT", "pg-port", "5497", "port of the private PostgreSQL"},
		{"ULVANT_SMTP", "smtp", "127.0.0.1:2597", "mail server, host:port; in demo the tray listens there"},
		{"ULVANT_MAIL_FROM", "mail-from", "grants@ostrel-trust.example", "address that mails come from"},
		{"ULVANT_BOUNCES", "bounces", "",
			"host and port on which mails that come back are taken over SMTP, and answers of calendars to invitations, for bounce+… and answer+…@ the host of mail-from; nowhere when empty; in demo 127.0.0.1:2601"},
		{"ULVANT_TEXTS", "texts", "",
			"domain of the gateway that makes text messages of mails to NUMBER@DOMAIN, by the same mail server; none when empty; in demo texts.example, which the tray plays"},
		{"ULVANT_REGISTER", "register", "http://127.0.0.1:2598",
			"base address of the register of bodies, asked as BASE/scheme/number; in demo the stand-in listens there"},
		{"ULVANT_DECLARATIONS", "declarations", "",
			"base address of the service at which households declare what they have; none when empty; in demo the stand-in listens at 127.0.0.1:2600, unless --declarations=-"},
		{"ULVANT_SCANNER", "scanner", "",
			"address of a virus scanner that speaks clamd’s protocol, host:port or the path of a socket; none when empty; in demo the stand-in listens at 127.0.0.1:2599, unless --scanner=-"},
		{"ULVANT_PAYDESK", "paydesk", "",
			"base address of the payment desk at which fees are paid, https://…; none when empty; in demo the stand-in listens at 127.0.0.1:2602, unless --paydesk=-"},
		{"ULVANT_PAYDESK_KEY", "paydesk-key", "",
			"what is shared with the payment desk, in hexadecimal digits, 32 at least; it signs its notices to BASE-URL/paydesk/notices with it"},
		{"ULVANT_OFFICERS", "officers", "2", "officers of a new organisation who must confirm, 0 to 5"},
		{"ULVANT_LOOK_OVER_DAYS", "look-over-days", "5",
			"working days within which the office looks a new organisation over, 1 to 60"},
		{"ULVANT_CONNECTIONS", "connections", "16", "database connections of one process, 4 to 200"},
		{"ULVANT_CONFIRM_LIFE", "confirm-life", "48h", "how long a confirmation link works"},
		{"ULVANT_LINK_LIFE", "link-life", "2160h", "how long other personal links work"},
		{"ULVANT_UPLOAD_LIFE", "upload-life", "168h", "how long a file waits for the rest of it before it is given up"},
		{"ULVANT_SESSION_LIFE", "session-life", "12h", "how long a session lasts without signing in again"},
		{"ULVANT_SESSION_IDLE", "session-idle", "2h", "how long a session lasts that nobody uses"},
		{"ULVANT_OFFICE_SECOND", "office-second", "no",
			"yes: whoever works at the office must set up a second factor before they see its pages"},
		{"ULVANT_PROXIES", "proxies", "",
			"addresses of proxies before this server, such as 10.0.0.5,10.1.0.0/16; their X-Forwarded-For tells who asks"},
		{"ULVANT_KEY", "key", "", "128 hexadecimal digits; made and kept in the data folder when not given"},
	}
}

// Load reads flags and environment.
func Load(args []string, getenv func(string) string) (*Config, []string, error) {
	fs := flag.NewFlagSet("ulvant", flag.ContinueOnError)
	fs.SetOutput(os.Stderr)
	values := map[string]*string{}
	for _, s := range Settings() {
		def := s.Default
		if s.Flag == "data" {
			def = DefaultDataDir()
		}
		if v := getenv(s.Env); v != "" {
			def = v
		}
		values[s.Flag] = fs.String(s.Flag, def, s.Means+" ("+s.Env+")")
	}
	if err := fs.Parse(args); err != nil {
		return nil, nil, err
	}
	get := func(k string) string { return *values[k] }
	c := &Config{Listen: get("listen"), BaseURL: get("base-url"), DatabaseURL: get("database"), OwnerURL: get("owner-url"),
		DataDir: get("data"), SMTP: get("smtp"), MailFrom: get("mail-from"), Register: get("register"),
		Bounces: get("bounces"), Texts: get("texts"),
		Scanner: strings.TrimSuffix(get("scanner"), "-"), Declarations: strings.TrimSuffix(get("declarations"), "-")}
	var errs []error
	var err error
	bad := func(flagName, says string) {
		errs = append(errs, fmt.Errorf("the setting %s is %q, but %s", flagName, get(flagName), says))
	}
	number := func(name string, least, most int) int {
		n, err := strconv.Atoi(get(name))
		if err != nil || n < least || n > most {
			bad(name, fmt.Sprintf("it must be a whole number from %d to %d", least, most))
		}
		return n
	}
	life := func(name string) time.Duration {
		d, err := time.ParseDuration(get(name))
		if err != nil || d <= 0 {
			bad(name, "it must be a time such as 48h or 30m")
		}
		return d
	}
	c.Officers, c.LookOverDays = number("officers", 0, 5), number("look-over-days", 1, 60)
	if u, err := url.Parse(c.Register); err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		bad("register", "it must be http://… or https://…")
	}
	c.Paydesk = strings.TrimRight(strings.TrimSuffix(get("paydesk"), "-"), "/")
	if u, err := url.Parse(c.Paydesk); c.Paydesk != "" && (err != nil || u.Host == "" || u.Scheme != "http" &&
		u.Scheme != "https") {
		bad("paydesk", "it must be http://… or https://…")
	}
	if c.PaydeskKey, err = hex.DecodeString(get("paydesk-key")); err != nil || c.Paydesk != "" && len(c.PaydeskKey) < 16 {
		bad("paydesk-key", "it must be at least 32 hexadecimal digits")
	}
	c.PGPort, c.Connections = number("pg-port", 1024, 65535), number("connections", 4, 200)
	c.ConfirmLife, c.LinkLife, c.SessionLife = life("confirm-life"), life("link-life"), life("session-life")
	c.SessionIdle, c.UploadLife = life("session-idle"), life("upload-life")
	switch get("office-second") {
	case "yes":
		c.OfficeSecond = true
	case "no":
	default:
		bad("office-second", "it must be yes or no")
	}
	for _, word := range strings.FieldsFunc(get("proxies"), func(r rune) bool { return r == ',' || r == ' ' }) {
		p, err := netip.ParsePrefix(word)
		if a, aerr := netip.ParseAddr(word); err != nil && aerr == nil {
			p, err = a.Prefix(a.BitLen())
		}
		if err != nil {
			bad("proxies", word+" is no address and no range of addresses such as 10.1.0.0/16")
			continue
		}
		c.Proxies = append(c.Proxies, p)
	}
	u, err := url.Parse(c.BaseURL)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || u.Path != "" {
		bad("base-url", "it must be http://… or https://… without a path")
	} else {
		c.SecureCookie = u.Scheme == "https"
	}
	if !filepath.IsAbs(c.DataDir) {
		bad("data", "it must be a whole path, beginning with /")
	}
	if k := get("key"); k != "" {
		c.Key, err = hex.DecodeString(k)
		if err != nil || len(c.Key) != 64 {
			errs = append(errs, errors.New("the setting key must be 128 hexadecimal digits"))
		}
	}
	if c.OwnerURL == "" {
		c.OwnerURL = c.DatabaseURL
	}
	return c, fs.Args(), errors.Join(errs...)
}
