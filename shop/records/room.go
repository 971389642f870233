// Package records is the models of computers: entered by form, line and file, what was found and what
// is in doubt, photos, where things lie. Every change goes through one gate.
package records

import (
	"yembo/shop/base"
)

// Records are the use cases of the models' records.
type Records struct{ *base.Base }
