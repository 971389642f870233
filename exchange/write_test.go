package exchange

import (
	"bytes"
	"testing"

	"yembo/core/plan"
)

// TestWriteLarge: a plan whose options are printed in bundles has the bytes of one that is printed in one go.
func TestWriteLarge(t *testing.T) {
	for _, n := range []int{0, 1, atOnce, atOnce + 1, 3 * atOnce, 3*atOnce + 7} {
		p := &plan.Plan{Format: "yembo.plan/1", Options: make([]plan.Option, n)}
		for i := range p.Options {
			o := &p.Options[i]
			o.ID, o.TotalCents = "o<&>\n  \"options\": []", int64(i)
			o.Actions = []plan.Action{{Do: plan.DoKeep, Place: "d0"}}
		}
		var whole bytes.Buffer
		if err := write(&whole, p, ""); err != nil {
			t.Fatal(err)
		}
		if got, err := Write(p); err != nil || !bytes.Equal(got, whole.Bytes()) {
			t.Errorf("%d options: %d bytes instead of %d, %v", n, len(got), whole.Len(), err)
		}
	}
}
