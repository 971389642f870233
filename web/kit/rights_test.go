package kit

import "testing"

// TestRouteOf: an address belongs to the route that says the most of it in words.
func TestRouteOf(t *testing.T) {
	for _, x := range []struct{ method, address, want string }{
		{"GET", "/models/import?x=1", "/models/import"}, {"GET", "/models/quillon-aster-14", "/models/:id"},
		{"POST", "/jobs/8/move", "/jobs/:job/move"}, {"GET", "/jobs/8/move", ""}, {"GET", "/", "/"}, {"GET", "#here", ""},
		{"GET", "/people#screens", "/people"}, {"GET", "/no/such/page", ""}, {"POST", "/removed/job/8/back",
			"/removed/:kind/:record/back"},
	} {
		if got := routeOf(x.method, x.address); got != x.want {
			t.Errorf("%s %s is %q, want %q", x.method, x.address, got, x.want)
		}
	}
}
