package kit

import (
	"context"
)

type StoppingKey struct{}

// Stopping is closed when the application is about to stop: streams end then, and do not
// hold it up.
func Stopping(ctx context.Context) <-chan struct{} {
	done, _ := ctx.Value(StoppingKey{}).(<-chan struct{})
	return done
}
