package web

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// How long a certificate of our own holds, and how long before its end another takes its place: tablets refuse those that hold
// for over 825 days.
const (
	certificateHolds = 800 * 24 * time.Hour
	certificateRenew = 60 * 24 * time.Hour
)

// checkCertificate is how often a server that goes on for years looks whether its certificate is about to end.
const checkCertificate = 12 * time.Hour

// Renewed hands out the certificate that a shop makes for itself, and makes another in its place before it ends, while the
// server goes on. now is the clock.
func Renewed(dir string, names []string, first tls.Certificate,
	now func() time.Time) func(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	var mu sync.Mutex
	current, looked := first, now()
	return func(*tls.ClientHelloInfo) (*tls.Certificate, error) {
		mu.Lock()
		defer mu.Unlock()
		if t := now(); t.Sub(looked) >= checkCertificate {
			looked = t
			// Where no other can be made now, what there is goes on, and the next look tries again.
			if next, err := OwnCertificate(dir, names, t); err == nil {
				current = next
			}
		}
		return &current, nil
	}
}

// OwnCertificate is the certificate that a shop makes for itself, kept in the data folder with its key. It is made anew where
// it is about to end, or a name or an address that is answered to is missing in it.
func OwnCertificate(dir string, names []string, now time.Time) (tls.Certificate, error) {
	file := filepath.Join(dir, "tls.pem")
	raw, err := os.ReadFile(file)
	if err == nil {
		pair, err := tls.X509KeyPair(raw, raw)
		if err == nil && holds(pair.Leaf, names, now) {
			return pair, nil
		}
	} else if !errors.Is(err, fs.ErrNotExist) {
		return tls.Certificate{}, err
	}
	if raw, err = newCertificate(names, now); err != nil {
		return tls.Certificate{}, err
	}
	if err := os.WriteFile(file+".new", raw, 0o600); err != nil {
		return tls.Certificate{}, err
	}
	if err := os.Rename(file+".new", file); err != nil {
		return tls.Certificate{}, err
	}
	return tls.X509KeyPair(raw, raw)
}

// holds reports whether a certificate is good for some time yet, for all of some names.
func holds(leaf *x509.Certificate, names []string, now time.Time) bool {
	return now.After(leaf.NotBefore) && now.Add(certificateRenew).Before(leaf.NotAfter) &&
		!slices.ContainsFunc(names, func(name string) bool { return leaf.VerifyHostname(name) != nil })
}

// newCertificate makes a key and a certificate for some names, as PEM.
func newCertificate(names []string, now time.Time) ([]byte, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 127))
	if err != nil {
		return nil, err
	}
	as := &x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Yembo"}, NotBefore: now.Add(-time.Hour),
		NotAfter: now.Add(certificateHolds), KeyUsage: x509.KeyUsageDigitalSignature, BasicConstraintsValid: true,
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	for _, name := range names {
		if ip := net.ParseIP(name); ip != nil {
			as.IPAddresses = append(as.IPAddresses, ip)
		} else {
			as.DNSNames = append(as.DNSNames, name)
		}
	}
	der, err := x509.CreateCertificate(rand.Reader, as, as, key.Public(), key)
	if err != nil {
		return nil, err
	}
	keyDER, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return nil, err
	}
	return append(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}),
		pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: keyDER})...), nil
}

// Fingerprint is the SHA-256 of a certificate, as browsers show it.
func Fingerprint(c tls.Certificate) string {
	sum := sha256.Sum256(c.Certificate[0])
	parts := make([]string, len(sum))
	for i, b := range sum {
		parts[i] = fmt.Sprintf("%02X", b)
	}
	return strings.Join(parts, ":")
}
