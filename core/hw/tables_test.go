package hw

import (
	"strings"
	"testing"
)

// TestVerbRows: each verb says what is done and undone, how long it takes, and what is asked afterwards; the
// words tell the verbs apart.
func TestVerbRows(t *testing.T) {
	said := map[string]Verb{}
	for _, r := range Verbs {
		for name, words := range map[string]string{"Does": r.Does, "Back": r.Back, "Did": r.Did, "DidBack": r.DidBack} {
			if strings.TrimSpace(words) == "" {
				t.Errorf("%s: %s is blank", r.Verb, name)
			}
			if strings.Contains(words, "%n") && !r.Turns {
				t.Errorf("%s: %s counts screws, and it turns none", r.Verb, name)
			}
		}
		if r.Minutes <= 0 || r.Turns != (r.PerScrew > 0) {
			t.Errorf("%s takes %v, and %v a screw", r.Verb, r.Minutes, r.PerScrew)
		}
		if other, taken := said[r.Does]; taken {
			t.Errorf("%s and %s are said alike: %s", r.Verb, other, r.Does)
		}
		said[r.Does] = r.Verb
	}
}

// TestCodeRows: each code of a verdict says what it does and in which words; what counts as a risk
// warns, tells or asks for a consent, and a code without a row is never taken for a refusal or for fine.
func TestCodeRows(t *testing.T) {
	said := map[string]Code{}
	for _, r := range Codes {
		if r.Severity < Refuses || r.Severity > Tells || strings.TrimSpace(r.Says) == "" {
			t.Errorf("%s: severity %d, %q", r.Code, r.Severity, r.Says)
		}
		// What practice may allow refuses without it, and asks for a consent with it.
		if r.Risk && r.Severity != Warns && r.Severity != Tells && r.Consent == "" || r.Points > 0 && !r.Risk {
			t.Errorf("%s: severity %d, %d points, a risk: %v", r.Code, r.Severity, r.Points, r.Risk)
		}
		if other, taken := said[r.Says]; taken {
			t.Errorf("%s and %s are said alike: %s", r.Code, other, r.Says)
		}
		said[r.Says] = r.Code
	}
	if got := Code("nobody.knows").Row().Severity; got != NotKnown {
		t.Errorf("a code without a row has the severity %d", got)
	}
	for _, r := range Consents {
		if r.Says == "" || r.Why == "" || r.Short == "" {
			t.Errorf("a consent says too little: %+v", r)
		}
	}
}
