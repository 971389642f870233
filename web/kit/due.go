package kit

import (
	"time"

	"yembo/shop/base"
	"yembo/web/form"
)

// DueOf reads out of a field when something is expected, the way people say it: a day, with its time where that is said; ""
// where nothing is, or it was not understood, which is a fault of the field.
func DueOf(f *form.Form, name string, now time.Time) base.Due {
	text := f.Text(name)
	if text == "" {
		return ""
	}
	at, timed, err := form.Said(text, now)
	if err != nil {
		f.Fault(name, err.Error())
		return ""
	}
	return base.DueAt(at, timed)
}
