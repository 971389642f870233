package kit

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"yembo/shop/base"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
)

// TestAnswers: each error has an answer of its own, however it is wrapped; what a person did,
// or the disk, is never called a fault of the application.
func TestAnswers(t *testing.T) {
	for err, want := range map[error]int{
		plan.TooLarge("70 places"): 422, teardown.ErrTooHard: 422, base.ErrNotFound: 404, base.ErrChanged: 409,
		base.ErrPlanChanged: 409,
		base.ErrDanger:      409, base.ErrBusy: 503, base.ErrReadOnly: 503, base.ErrMoved: 503, base.ErrFull: 507, base.ErrDamaged: 500,
		errors.New("anything else"): 500,
	} {
		a := answerTo(fmt.Errorf("at some place: %w", err))
		if a.status != want || a.title == "" || want != 500 && strings.Contains(a.text, "fault of the application") {
			t.Errorf("%v: %+v, want %d", err, a, want)
		}
	}
	faults := answerTo(fmt.Errorf("x: %w", hw.Faults{{Text: "machine 3 has something in dimm1"}}))
	if faults.status != http.StatusUnprocessableEntity || len(faults.faults) != 1 {
		t.Errorf("%+v", faults)
	}
}
