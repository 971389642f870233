package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"runtime/debug"
	"strings"
	"time"

	"yembo/shop"
	"yembo/web"
)

// listenAs is where and how pages are served; demo and serve share it.
type listenAs struct {
	Addr        string   `help:"Address; as the settings say, else 127.0.0.1:8423; others' need a password."`
	Host        []string `help:"Further names that are answered to, such as bench.lan."`
	TLS         string   `name:"tls" help:"self: make a certificate in the data folder." enum:",self" default:""`
	TLSCert     string   `name:"tls-cert" help:"A certificate, PEM." type:"path"`
	TLSKey      string   `name:"tls-key" help:"Its key, PEM." type:"path"`
	BehindProxy []string `name:"behind-proxy" help:"Addresses of proxies whose X-Forwarded-* are believed."`
	Public      string   `help:"Address of a door for customers: their links alone, and nothing else of the shop."`
}

// names are the host names that are answered to beside this machine's own: those that were told, and where other
// machines are answered, this machine's name and addresses.
func (l *listenAs) names(host string) []string {
	var out []string
	for _, h := range l.Host {
		out = append(out, strings.ToLower(h))
	}
	if web.Loopback(host) {
		return out
	}
	if name, err := os.Hostname(); err == nil {
		out = append(out, strings.ToLower(name), strings.ToLower(name)+".local")
	}
	addresses, err := net.InterfaceAddrs()
	if err != nil {
		return out
	}
	for _, a := range addresses {
		if n, ok := a.(*net.IPNet); ok {
			out = append(out, n.IP.String())
		}
	}
	return out
}

// certificate is what pages are served with, nil for none.
func (l *listenAs) certificate(dir string, names []string) (*tls.Config, error) {
	cfg := &tls.Config{MinVersion: tls.VersionTLS12}
	switch {
	case l.TLS == "self" && (l.TLSCert != "" || l.TLSKey != ""):
		return nil, errors.New("--tls self and --tls-cert: one of the two")
	case l.TLS == "self":
		names = append([]string{"localhost", "127.0.0.1", "::1"}, names...)
		own, err := web.OwnCertificate(dir, names, time.Now())
		if err != nil {
			return nil, fmt.Errorf("--tls self: %w", err)
		}
		fmt.Println("Fingerprint of the certificate, to compare on each tablet:\n  " + web.Fingerprint(own))
		cfg.GetCertificate = web.Renewed(dir, names, own, time.Now)
	case l.TLSCert == "" && l.TLSKey == "":
		return nil, nil
	case l.TLSCert == "" || l.TLSKey == "":
		return nil, errors.New("--tls-cert and --tls-key go together")
	default:
		pair, err := tls.LoadX509KeyPair(l.TLSCert, l.TLSKey)
		if err != nil {
			return nil, fmt.Errorf("--tls-cert %s: %w", l.TLSCert, err)
		}
		if ends := pair.Leaf.NotAfter; time.Now().After(ends) {
			return nil, fmt.Errorf("--tls-cert %s: the certificate ended on %s", l.TLSCert, ends.Format("2 January 2006"))
		}
		cfg.Certificates = []tls.Certificate{pair}
	}
	return cfg, nil
}

// memoryLimit is the memory, in bytes, past which it is cleared of what nobody uses any more, at the
// cost of time: whatever is sent, a small machine goes on.
const memoryLimit = 160 << 20

// serve listens, says where, and runs until the context ends.
func (l *listenAs) serve(ctx context.Context, dir string, cfg web.Config) error {
	if err := inZone(ctx, cfg.Shop); err != nil {
		return err
	}
	if l.Addr == "" {
		how, err := cfg.Shop.Settings(ctx)
		if err != nil {
			return err
		}
		if l.Addr = how.ServeAt; l.Addr == "" {
			l.Addr = "127.0.0.1:8423"
		} else if how.OwnTLS && l.TLSCert == "" && len(l.BehindProxy) == 0 {
			l.TLS = "self"
		}
	}
	host, _, err := net.SplitHostPort(l.Addr)
	if err != nil {
		return fmt.Errorf("--addr %s: an address such as 127.0.0.1:8423 is expected", l.Addr)
	}
	if !web.Loopback(host) || l.Public != "" || len(l.BehindProxy) > 0 {
		if err := answersOthers(ctx, cfg.Shop); err != nil {
			return err
		}
	}
	cfg.Hosts = l.names(host)
	for _, p := range l.BehindProxy {
		ip := net.ParseIP(p)
		if ip == nil {
			return fmt.Errorf("--behind-proxy %s: an address such as 127.0.0.1 is expected", p)
		}
		cfg.Proxies = append(cfg.Proxies, ip)
	}
	cert, err := l.certificate(dir, cfg.Hosts)
	if err != nil {
		return err
	}
	cfg.Secure = cert != nil || len(cfg.Proxies) > 0
	cfg.Log = slog.New(slog.NewTextHandler(os.Stderr, nil))
	e, err := web.New(cfg)
	if err != nil {
		return err
	}
	door, err := listen(l.Addr, cert)
	if err != nil {
		return err
	}
	scheme := "http"
	if cert != nil {
		scheme = "https"
	}
	debug.SetMemoryLimit(memoryLimit)
	fmt.Printf("Yembo is at %s://%s (Ctrl-C stops it)\n", scheme, door.Addr())
	if l.Public == "" {
		return web.Serve(ctx, e, door)
	}
	customers, err := web.NewPublic(cfg)
	if err != nil {
		return err
	}
	other, err := listen(l.Public, cert)
	if err != nil {
		return fmt.Errorf("--public: %w", err)
	}
	fmt.Printf("The customers' door is at %s://%s\n", scheme, other.Addr())
	both, stop := context.WithCancel(ctx)
	defer stop()
	done := make(chan error, 2)
	go func() { done <- web.Serve(both, e, door) }()
	go func() { done <- web.Serve(both, customers, other) }()
	first := <-done
	stop()
	return errors.Join(first, <-done)
}

func listen(addr string, cert *tls.Config) (net.Listener, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil || cert == nil {
		return l, err
	}
	return tls.NewListener(l, cert), nil
}

// answersOthers refuses to answer other machines while nobody has to sign in.
func answersOthers(ctx context.Context, s *shop.Shop) error {
	secured, err := s.Secured(ctx)
	if err != nil || secured {
		return err
	}
	return errors.New("only this machine's own address is served (127.0.0.1 or localhost) while no one has a password: give the " +
		"owner one first, in Settings under People and screens, or by yembo people password NAME --data DIR")
}

// inZone lets the process live where the shop is, whatever the computer's own time zone.
func inZone(ctx context.Context, s *shop.Shop) error {
	how, err := s.Settings(ctx)
	if err != nil || how.TimeZone == "" {
		return err
	}
	zone, err := time.LoadLocation(how.TimeZone)
	if err != nil {
		return fmt.Errorf("the time zone of the settings: %w", err)
	}
	time.Local = zone
	return nil
}
