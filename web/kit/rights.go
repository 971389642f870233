package kit

import (
	"net/url"
	"strings"

	"yembo/shop/people"
)

// rights names the right that each route asks for. A route that is not here is refused to everybody who has to sign in, and a
// test fails for it.
var rights = map[string]people.Right{
	"GET /static/*": people.Open, "GET /favicon.ico": people.Open, "POST /theme": people.Open, "GET /health": people.Open,
	"GET /signin": people.Open, "POST /signin": people.Open, "POST /signout": people.Open, "GET /enrol": people.Open,
	"POST /enrol": people.Open, "GET /q/:key": people.Open, "POST /q/:key": people.Open,
	"GET /guide": people.None, "GET /guide/:chapter": people.None, "GET /guide/pictures/:name": people.None,

	"GET /": people.None, "GET /find": people.None,
	"POST /find": people.None, "GET /reckoner": people.None, "GET /shorthand": people.None,
	"GET /underway/:id": people.None, "POST /underway/:id/stop": people.None, "POST /who": people.None,
	"GET /welcome": people.Prices, "POST /welcome": people.Prices, "POST /firststeps": people.Prices, "GET /samples": people.Record,
	"POST /samples": people.Record, "GET /settings": people.None, "POST /settings": people.Prices,

	"GET /machines": people.None, "GET /machines/:id": people.None, "GET /machines/:id/history": people.None,
	"GET /machines/new": people.Intake, "POST /machines": people.Intake, "GET /machines/import": people.Intake,
	"POST /machines/import": people.Intake, "POST /machines/import/take": people.Intake,
	"GET /machines/:id/correct": people.Intake, "POST /machines/:id/correct": people.Intake,
	"POST /machines/:id/putback": people.Intake,
	"POST /machines/:id/tag":     people.Intake, "GET /machines/export": people.Export, "GET /machines/:id/export": people.Export,
	"GET /machines/:id/readings": people.None, "GET /machines/:id/readings/:reading": people.None,
	"POST /machines/:id/readings": people.Prove, "POST /machines/:id/readings/:reading": people.Prove,
	"GET /machines/:id/draw": people.None, "GET /machines/:id/draw/events": people.None, "POST /machines/:id/draw": people.Prove,
	"GET /machines/:id/card": people.None, "POST /machines/:id/choice": people.Plan, "POST /machines/:id/wish": people.Plan,
	"POST /machines/:id/find": people.Plan, "POST /machines/:id/brings": people.Plan, "POST /machines/:id/quote": people.Quotes,

	"GET /jobs": people.None, "GET /jobs/:job": people.None, "GET /jobs/:job/label": people.None,
	"GET /jobs/:job/sheet":         people.None,
	"GET /jobs/:job/photos/:photo": people.None, "GET /jobs/:job/photos/:photo/:size": people.None,
	"GET /jobs/:job/correct": people.Intake, "POST /jobs/:job/correct": people.Intake, "POST /jobs/:job/putback": people.Intake,
	"POST /jobs/:job/photos": people.Intake, "POST /jobs/:job/signature": people.Intake, "POST /jobs/:job/contacts": people.Customer,
	"POST /jobs/:job/talk": people.Customer, "POST /jobs/:job/move": people.Work, "POST /jobs/:job/fit": people.Work,
	"GET /jobs/:job/run": people.None, "GET /jobs/:job/run/news": people.None, "POST /jobs/:job/run": people.Work,
	"POST /jobs/:job/run/back": people.Work, "POST /jobs/:job/run/event": people.Work, "POST /jobs/:job/run/line": people.Work,
	"POST /jobs/:job/run/photos": people.Work, "POST /jobs/:job/run/sync": people.Work,
	"GET /jobs/:job/proof": people.None, "POST /jobs/:job/proof": people.Prove, "GET /jobs/:job/report": people.None,
	"GET /jobs/:job/report/document": people.None, "GET /jobs/:job/report/file": people.None,
	"GET /jobs/:job/bill": people.None, "POST /jobs/:job/invoice": people.Bills, "POST /jobs/:job/pay": people.Bills,
	"POST /jobs/:job/pay/strike": people.Bills, "GET /invoices": people.None, "GET /invoices/:invoice": people.None,
	"GET /invoices/:invoice/document": people.None, "GET /invoices/table.csv": people.Export,
	"POST /invoices/:invoice/cancel": people.Cancel,
	"GET /quotes/:quote":             people.None, "GET /quotes/:quote/document": people.None,
	"GET /quotes/:quote/edit": people.Quotes,
	"POST /quotes/:quote":     people.Quotes, "POST /quotes/:quote/answer": people.Quotes, "POST /quotes/:quote/show": people.Quotes,

	"GET /customers": people.None, "GET /customers/:customer": people.None, "POST /customers/:customer": people.Customer,
	"GET /customers/:customer/known": people.Remove, "GET /customers/:customer/known.json": people.Export,
	"GET /remove/:kind/:record": people.Remove, "POST /remove/:kind/:record": people.Remove, "GET /removed": people.Remove,
	"POST /removed/:kind/:record/back": people.Remove,

	"GET /models": people.None, "GET /models/:id": people.None, "GET /models/compare": people.None,
	"GET /models/:id/bench":    people.None,
	"GET /models/:id/findings": people.None, "GET /models/:id/mat": people.None, "GET /models/:id/mat.svg": people.None,
	"GET /models/:id/photos": people.None, "GET /models/:id/photos/:photo": people.None,
	"GET /models/:id/photos/:photo/:size": people.None, "GET /models/:id/sheet": people.None, "GET /models/:id/steps": people.None,
	"GET /models/:id/export": people.None, "GET /models/:id/export-with-photos": people.None, "GET /models/export": people.Export,
	"GET /models/new": people.Record, "POST /models": people.Record, "POST /models/lines": people.Record,
	"GET /models/import":  people.Record,
	"POST /models/import": people.Record, "POST /models/import/take": people.Record,
	"POST /models/import/take-records": people.Record,
	"GET /models/:id/edit":             people.Record, "POST /models/:id": people.Record, "POST /models/:id/lines": people.Record,
	"GET /models/:id/arrange": people.Record, "POST /models/:id/arrange": people.Record, "POST /models/:id/copy": people.Record,
	"POST /models/:id/findings": people.Record, "POST /models/:id/findings/add": people.Record,
	"POST /models/:id/findings/seen": people.Record, "POST /models/:id/loosen": people.Record,
	"GET /models/:id/parts/:list/:item": people.None, "POST /models/:id/parts/:list/:item": people.Record,
	"POST /models/:id/photos": people.Record, "POST /models/:id/photos/:photo": people.Record,
	"POST /models/:id/reach":   people.Record,
	"POST /models/:id/restore": people.Record, "POST /models/:id/steps": people.Record,
	"POST /models/:id/usual-steps":    people.Record,
	"GET /models/:id/suspected/:item": people.None, "POST /models/:id/suspected/:item": people.Record,

	"GET /parts": people.None, "GET /parts/:id": people.None, "GET /parts/movements": people.None,
	"GET /parts/movements.csv": people.Export,
	"GET /parts/export":        people.Export, "GET /parts/export.csv": people.Export, "GET /parts/new": people.Shelf,
	"POST /parts": people.Shelf, "POST /parts/line": people.Shelf, "POST /parts/:id": people.Shelf, "GET /parts/count": people.Shelf,
	"POST /parts/count": people.Shelf, "POST /parts/finds/:find": people.Shelf, "GET /parts/import": people.Prices,
	"POST /parts/import": people.Prices, "POST /parts/import/take": people.Prices, "GET /orders": people.None,
	"GET /orders/:order": people.None, "GET /orders/:order/table.csv": people.None, "GET /orders/new": people.Shelf,
	"POST /orders": people.Shelf, "POST /orders/:order": people.Shelf, "GET /suppliers": people.None,
	"POST /suppliers":           people.Shelf,
	"POST /suppliers/:supplier": people.Shelf,

	"GET /week": people.None, "GET /week/events": people.None,
	"GET /week/try": people.None, "POST /week/move": people.Plan, "POST /week/undo": people.Plan,
	"POST /week/show": people.Plan, "POST /week/ring": people.Customer, "GET /week/feed": people.None,
	"POST /week/feed": people.None, "GET /feed/:key": people.Open, "GET /jobs/:job/when": people.None,
	"POST /jobs/:job/when": people.Customer,

	"GET /people": people.Manage, "GET /people/new": people.Manage, "GET /people/:person": people.Manage,
	"POST /people":         people.Manage,
	"POST /people/:person": people.Manage, "POST /people/:person/rights": people.Manage, "POST /screens": people.Manage,
	"POST /screens/:screen/strike": people.Manage, "POST /sessions/:session/end": people.Manage, "GET /journal": people.Manage,
	"GET /journal.csv": people.Export,
}

// closer are the forms of which one choice asks for another right than the rest.
var closer = []struct {
	route, field, value string
	right               people.Right
}{
	{"POST /jobs/:job/proof", "do", "sign", people.Sign},
	{"POST /jobs/:job/move", "/to", "reopen", people.TakeBack},
	{"POST /jobs/:job/move", "/to", "close", people.Intake},
	{"POST /customers/:customer", "do", "forget", people.Remove},
	{"POST /customers/:customer", "do", "merge", people.Remove},
}

// RightOf is the right that a route asks for, with the form that was sent.
func RightOf(method, route string, form url.Values) (people.Right, bool) {
	if method == "HEAD" {
		method = "GET"
	}
	at := method + " " + route
	for _, x := range closer {
		if x.route == at && form.Get(x.field) == x.value {
			return x.right, true
		}
	}
	r, ok := rights[at]
	return r, ok
}

// shapes are the routes by how many parts they have, for finding the route of an address.
var shapes = func() map[int][]string {
	out := map[int][]string{}
	for route := range rights {
		n := strings.Count(route, "/")
		out[n] = append(out[n], route)
	}
	return out
}()

// routeOf is the route that an address of a page belongs to; the one that says the most in words holds.
func routeOf(method, address string) string {
	if u, err := url.Parse(address); err == nil {
		address = u.Path
	}
	parts := strings.Split(address, "/")
	best, most := "", -1
	for _, route := range shapes[len(parts)-1] {
		verb, pattern, _ := strings.Cut(route, " ")
		if verb != method {
			continue
		}
		same := 0
		for i, part := range strings.Split(pattern, "/") {
			if strings.HasPrefix(part, ":") {
				continue
			}
			if part != parts[i] {
				same = -1
				break
			}
			same++
		}
		if same > most {
			best, most = pattern, same
		}
	}
	return best
}
