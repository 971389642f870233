package web_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web"
	"yembo/web/kit"
	"yembo/web/webtest"
)

// over sends a request as written over a connection, of which no more comes where it is cut off,
// and reads the answer.
func over(t *testing.T, addr, written string, cutOff bool) (*http.Response, string) {
	t.Helper()
	conn, err := net.Dial("tcp", addr)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	written = strings.ReplaceAll(written, "\n", "\r\n")
	if _, err := io.WriteString(conn, written); err != nil {
		t.Fatal(err)
	}
	if cutOff {
		if err := conn.(*net.TCPConn).CloseWrite(); err != nil {
			t.Fatal(err)
		}
	}
	method, _, _ := strings.Cut(written, " ")
	answer, err := http.ReadResponse(bufio.NewReader(conn), &http.Request{Method: method})
	if err != nil {
		t.Fatalf("%.40q: %v", written, err)
	}
	body, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatalf("%.40q: %v", written, err)
	}
	return answer, string(body)
}

// TestDoor: what comes over a connection is answered by what is wrong with it, and nothing of it is stored.
func TestDoor(t *testing.T) {
	e, _, sh := webtest.Started(t)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go web.Serve(t.Context(), e, l)
	addr := l.Addr().String()
	const post, own = "POST /jobs/3/contacts HTTP/1.1\n", "Connection: close\nSec-Fetch-Site: same-origin\n" +
		"Content-Type: application/x-www-form-urlencoded\n"
	said := url.Values{"/how": {"phone"}, "/said": {"never\x00heard"}, "/back": {"q"}}.Encode()
	long := strings.Repeat("a", kit.MaxBody+1)
	for _, tc := range []struct {
		name, written string
		status        int
		has           string
	}{
		{"whole", "GET /machines HTTP/1.1\nHost: localhost\nConnection: close\n\n", 200, "wath-07"},
		{"head alone", "HEAD /machines HTTP/1.1\nHost: localhost\nConnection: close\n\n", 200, ""},
		{"another host", "GET /machines HTTP/1.1\nHost: evil.example\nConnection: close\n\n", 421, "Not served here"},
		{"cut off", post + own + "Host: localhost\nContent-Length: 900\n\n" + said, 400, "Cut off"},
		{"too long, told", post + own + fmt.Sprintf("Host: localhost\nContent-Length: %d\n\n", kit.MaxBody+1), 413, "Too large"},
		{"too long, in pieces", post + own + fmt.Sprintf("Host: localhost\nTransfer-Encoding: chunked\n\n%x\n%s\n0\n\n", len(long),
			long), 413, "Too large"},
		{"no text", post + own + fmt.Sprintf("Host: localhost\nContent-Length: %d\n\n%s", len(said), said), 422, "neverheard"},
		{"broken escape", post + own + "Host: localhost\nContent-Length: 6\n\n/a=%zz", 400, "Not accepted"},
		{"another site's stream", "GET /machines/3/draw/events HTTP/1.1\nHost: localhost\nSec-Fetch-Site: cross-site\n" +
			"Connection: close\n\n", 403, "Not accepted"},
		{"another origin's stream", "GET /machines/3/draw/events HTTP/1.1\nHost: localhost\n" +
			"Origin: http://evil.example\nConnection: close\n\n", 403, "Not accepted"},
	} {
		answer, body := over(t, addr, tc.written, tc.name == "cut off")
		if answer.StatusCode != tc.status || !strings.Contains(body, tc.has) || tc.has == "" && body != "" {
			t.Errorf("%s: %d %.300s", tc.name, answer.StatusCode, body)
		}
		if strings.Contains(body, "fault of the application") {
			t.Errorf("%s is called the application's fault", tc.name)
		}
	}
	r, err := sh.Job(t.Context(), 3)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range r.Contacts {
		if strings.Contains(c.Said, "heard") {
			t.Error("a refused form was stored")
		}
	}
	const forged = "GET /machines HTTP/1.1\nHost: localhost\nX-Request-Id: forged\nConnection: close\n\n"
	if answer, _ := over(t, addr, forged, false); answer.Header.Get("X-Request-Id") == "forged" {
		t.Error("a stranger's number goes into the log")
	}
}
