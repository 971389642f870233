package kit

import (
	"testing"
)

// TestWithin: nobody is led out of the application.
func TestWithin(t *testing.T) {
	for target, want := range map[string]string{
		"/jobs/3?a=b#c": "/jobs/3?a=b#c", "//evil.example/x": "/", "https://evil.example": "/", `/\evil.example`: "/",
		"": "/", "jobs": "/", "javascript:alert(1)": "/", "/jobs/3\r\nSet-Cookie: a=b": "/", "/%5cevil.example": "/",
	} {
		if got := Within(target); got != want {
			t.Errorf("%q leads to %q, want %q", target, got, want)
		}
	}
}
