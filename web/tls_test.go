package web

import (
	"bytes"
	"context"
	"crypto/tls"
	"crypto/x509"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yembo/shop"
	"yembo/store"
	"yembo/store/storetest"
	"yembo/web/kit"

	"github.com/labstack/echo/v5"
)

// TestOwnCertificate: it stays the same until it is about to end or a name is missing in it, and pages are served with it, with
// cookies that go over TLS alone.
func TestOwnCertificate(t *testing.T) {
	dir, now := t.TempDir(), time.Now()
	certificate := func(now time.Time, names ...string) tls.Certificate {
		t.Helper()
		c, err := OwnCertificate(dir, names, now)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	first := certificate(now, "localhost", "127.0.0.1")
	same := func(c tls.Certificate) bool { return bytes.Equal(c.Certificate[0], first.Certificate[0]) }
	if !same(certificate(now.Add(24*time.Hour), "localhost")) {
		t.Error("another one after a day")
	}
	if len(strings.Split(Fingerprint(first), ":")) != 32 {
		t.Errorf("fingerprint %s", Fingerprint(first))
	}

	// A server that goes on for years renews it, and does not look each time.
	at := now
	renewed := Renewed(dir, []string{"localhost"}, first, func() time.Time { return at })
	for _, x := range []struct {
		after time.Duration
		same  bool
	}{{time.Hour, true}, {13 * time.Hour, true}, {certificateHolds - certificateRenew + 14*time.Hour, false}} {
		at = now.Add(x.after)
		if c, err := renewed(nil); err != nil || same(*c) != x.same {
			t.Errorf("after %v it is the same: %v, %v", x.after, !x.same, err)
		}
	}
	if err := os.Remove(filepath.Join(dir, "tls.pem")); err != nil {
		t.Fatal(err)
	}
	first = certificate(now, "localhost", "127.0.0.1")

	sh := shop.New(storetest.Open(t, "", func(*store.Store) error { return nil }), time.Now)
	e, err := New(Config{Shop: sh, Workshop: NoName, Log: slog.New(slog.DiscardHandler), Secure: true, Hosts: []string{"bench.lan"}})
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- Serve(ctx, e, tls.NewListener(l, &tls.Config{Certificates: []tls.Certificate{first}})) }()
	pool := x509.NewCertPool()
	pool.AddCert(first.Leaf)
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool}}}
	for host, want := range map[string]int{"bench.lan": http.StatusOK, "elsewhere.example": http.StatusMisdirectedRequest} {
		r, err := http.NewRequest("GET", "https://"+l.Addr().String()+"/welcome", nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Host = host
		w, err := client.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		w.Body.Close()
		if w.StatusCode != want || w.Header.Get("Strict-Transport-Security") == "" {
			t.Errorf("%s: %d %v", host, w.StatusCode, w.Header)
		}
		for _, c := range w.Cookies() {
			if !c.Secure || !c.HttpOnly {
				t.Errorf("the cookie %s goes without TLS", c.Name)
			}
		}
	}
	stop()
	if err := <-done; err != nil {
		t.Error(err)
	}
	if same(certificate(now, "localhost", "bench.lan")) || same(certificate(now.Add(certificateHolds-certificateRenew),
		"localhost")) {
		t.Error("it stays without a name that is answered to, or until its end")
	}
}

// TestForwarded: a proxy that was named is believed for where a request comes from, in its own word alone; nobody else is.
func TestForwarded(t *testing.T) {
	site := &kit.Site{Config: kit.Config{Proxies: []net.IP{net.ParseIP("10.0.0.9")}}}
	for _, x := range []struct{ from, header, host, want, wantHost string }{
		{"10.0.0.9:5", "6.6.6.6, 10.0.0.44", "bench.lan", "10.0.0.44", "bench.lan"},
		{"10.0.0.7:5", "10.0.0.44", "bench.lan", "10.0.0.7", "localhost"},
		{"10.0.0.9:5", "nonsense", "", "10.0.0.9", "localhost"},
	} {
		from, host := forwarded(t, site, x.from, x.header, x.host)
		if from != x.want || host != x.wantHost {
			t.Errorf("%+v: %s %s", x, from, host)
		}
	}
}

// forwarded is where a request comes from, and by which name, after a proxy's word was weighed.
func forwarded(t *testing.T, site *kit.Site, from, chain, host string) (string, string) {
	t.Helper()
	r := httptest.NewRequest("GET", "http://localhost/", nil)
	r.RemoteAddr = from
	r.Header.Set("X-Forwarded-For", chain)
	if host != "" {
		r.Header.Set("X-Forwarded-Host", host)
	}
	var gotFrom, gotHost string
	e := echo.New()
	e.Use(site.Forwarded)
	e.GET("/", func(c *echo.Context) error {
		gotFrom, gotHost = kit.Address(c), c.Request().Host
		return nil
	})
	e.ServeHTTP(httptest.NewRecorder(), r)
	return gotFrom, gotHost
}

// TestLimit: whoever asks too fast is told to wait, with the whole of their network, and stops nobody else; this machine
// itself never is; and all together are answered no faster than a shop can.
func TestLimit(t *testing.T) {
	e := echo.New()
	e.Use(kit.Limit(kit.Limits{Rate: 0.001, Burst: 5, AllRate: 0.001, AllBurst: 12}))
	e.GET("/", func(c *echo.Context) error { return c.NoContent(http.StatusOK) })
	answered := func(from string, times int) (n int) {
		for range times {
			r := httptest.NewRequest("GET", "http://localhost/", nil)
			r.RemoteAddr = from
			w := httptest.NewRecorder()
			if e.ServeHTTP(w, r); w.Code == http.StatusOK {
				n++
			} else if w.Code != http.StatusTooManyRequests || w.Header().Get("Retry-After") == "" {
				t.Errorf("%s: %d", from, w.Code)
			}
		}
		return n
	}
	for _, x := range []struct {
		from        string
		times, want int
	}{
		{"10.0.0.1:1", 9, 5}, {"127.0.0.1:1", 50, 50}, {"[::1]:1", 50, 50},
		{"[2001:db8:1:1::1]:1", 3, 3}, {"[2001:db8:1:1::2]:1", 9, 2}, // one network
		{"10.0.0.2:1", 9, 2}, // the twelve of all are used up
	} {
		if got := answered(x.from, x.times); got != x.want {
			t.Errorf("%s: %d of %d were answered, not %d", x.from, got, x.times, x.want)
		}
	}
}
