package kit

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
	"yembo/shop"
)

// TestAnswers: each error has an answer of its own, however it is wrapped; what a person did,
// or the disk, is never called a fault of the application.
func TestAnswers(t *testing.T) {
	for err, want := range map[error]int{
		plan.TooLarge("70 places"): 422, teardown.ErrTooHard: 422, shop.ErrNotFound: 404, shop.ErrChanged: 409,
		shop.ErrPlanChanged: 409,
		shop.ErrDanger:      409, shop.ErrBusy: 503, shop.ErrReadOnly: 503, shop.ErrMoved: 503, shop.ErrFull: 507, shop.ErrDamaged: 500,
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
