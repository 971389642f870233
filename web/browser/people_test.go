package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

const password, ownersPIN, techniciansPIN, counterPIN = "ferry boat lantern", "4711", "2580", "1357"

// secure gives the demo's people a password and PINs, as the owner does in the settings, and signs the owner in.
func (b *tab) secure() {
	b.t.Helper()
	b.person("/people/2", "", techniciansPIN)
	b.person("/people/3", "", counterPIN)
	b.person("/people/1", password, ownersPIN)
	b.until(`location.pathname === '/signin' && document.readyState === 'complete'`)
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#who').focus()`))
	b.keys("R. Okell\t" + password)
	b.enter("Sign in", `location.pathname === '/people'`)
}

func (b *tab) person(page, password, pin string) {
	b.t.Helper()
	b.visit(page)
	if page == "/people/3" {
		b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="/role"]').value = 'counter'`))
	}
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="/password"]').focus()`))
	b.keys(password + "\t" + pin)
	b.enter("Save", `location.pathname !== '`+page+`'`)
}

// TestPeople is a day of a shop on its own network, over TLS: the owner lets people in and enrols a tablet, by keyboard; there
// a technician comes by face and PIN and ticks on without the network, past the end of their session, and nothing is lost;
// the counter takes a machine in, on a screen of their own, has it signed, is refused what is not theirs and is lent a PIN for
// it; and a customer answers a quote at a door where nothing else of the shop is.
func TestPeople(t *testing.T) {
	at, door := overTLS(t)
	owner := open(t, at)
	owner.secure()
	owner.checked()
	owner.person("/people/3", password, counterPIN) // a screen of their own
	owner.fill("/name", "Bench 1")
	owner.fill("/bench", "1")
	owner.enter("Enrol a screen", `document.body.innerText.includes('Type it on the new screen')`)
	owner.checked()
	code := eval[string](owner, `document.body.innerText.match(/[A-Z0-9]{4}-[A-Z0-9]{4}/)[0]`)

	tablet := open(t, at)
	tablet.do(chromedp.EmulateViewport(390, 844))
	tablet.visit("/enrol")
	tablet.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#code').focus()`))
	tablet.keys(code)
	tablet.enter("Enrol", `location.pathname === '/signin'`)
	has(t, tablet.text(), "Who works here?", "C. Wray", "Open on this bench", "corrie-01")
	tablet.checked()
	tablet.noOverflow()
	tablet.face("2", techniciansPIN, "Go on", `location.pathname === '/jobs/4/run'`)
	tablet.until(`!!document.querySelector('[data-step]:not([hidden])')`)
	step := eval[string](tablet, `document.querySelector('[data-step]:not([hidden])').dataset.step`)
	tablet.cut(true)
	tablet.keys(" ")
	tablet.until(`document.querySelector('[data-net]').textContent.includes('1 waiting')`)
	owner.visit("/people")
	owner.enter("End", `!document.body.innerText.includes('Bench 1, from')`)
	tablet.cut(false)
	tablet.until(`location.pathname === '/signin' && document.body.innerText.includes('1 tick waits on this screen, of T. Ansty')`)
	tablet.checked()
	tablet.noOverflow()
	tablet.face("2", techniciansPIN, "Go on", `location.pathname === '/jobs/4/run' && !!document.querySelector('[data-net]')`)
	tablet.sent()
	owner.visit("/jobs/4/run")
	if done := eval[bool](owner, `!!document.querySelector('[data-step="`+step+`"] [data-donewords]')`); !done {
		t.Errorf("what was ticked at %s without the network is lost", step)
	}

	counter := open(t, at)
	counter.do(chromedp.EmulateViewport(390, 844))
	counter.visit("/signin")
	counter.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#who').focus()`))
	counter.keys("C. Wray\t" + password)
	counter.enter("Sign in", `location.pathname === '/'`)
	counter.visit("/machines/new?model=pellam-drover-15")
	counter.fill("/customer", "Wath River Ferries")
	counter.fill("/serial", "PD15-30078")
	counter.fill("/goals/memory_gb", "16")
	counter.arrow("Enter", ctrl)
	counter.until(`location.pathname.startsWith('/jobs/')`)
	counter.settled()
	counter.noOverflow()
	counter.signs("J. Farrow")
	counter.visit("/machines/8")
	counter.tabTo(`form[action$="/choice"] button`)
	counter.keys("\r")
	counter.until(`document.querySelector('h1')?.innerText === 'Not yours to do'`)
	has(t, counter.text(), "Plan upgrades", "R. Okell", "T. Ansty")
	counter.checked()
	counter.noOverflow()
	counter.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#pin').focus()`))
	counter.keys(ownersPIN)
	counter.enter("Do it this once", `location.pathname.endsWith('/card')`)
	counter.visit("/people")
	has(t, counter.text(), "People, rights and screens: only R. Okell may do this")

	owner.visit("/settings")
	owner.fill("/public_address", door)
	owner.enter("Save settings", `location.search === "?saved=yes"`)
	counter.visit("/machines/8")
	counter.press(`#quoteform button`)
	counter.until(`location.pathname.startsWith('/quotes/')`)
	counter.tabTo(`button[value="link"]`)
	counter.follow(`document.querySelector('[data-at=qlink]') !== null`)
	link := eval[string](counter, `document.querySelector('[data-at=qlink]').innerText`)
	if !strings.HasPrefix(link, door+"/q/") {
		t.Fatalf("the link for the customer is %s", link)
	}
	customer := open(t, door)
	customer.do(chromedp.EmulateViewport(390, 844))
	customer.answers(strings.TrimPrefix(link, door), "The vet")

	owner.visit("/journal")
	has(t, owner.text(), "PIN lent to C. Wray, once: plan upgrades", "screen enrolled", "T. Ansty at Bench 1: PIN")
	owner.checked()
	owner.do(chromedp.EmulateViewport(390, 844))
	owner.visit("/people")
	owner.noOverflow()
	for _, b := range []*tab{owner, tablet, counter} { // the customer's link ends with 404, as it should
		b.quiet()
	}
}

// face signs somebody in at a shared screen.
func (b *tab) face(person, pin, button, condition string) {
	b.t.Helper()
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="~person"][value="` + person + `"]').focus()`))
	b.keys(" ")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#pin').focus()`))
	b.keys(pin)
	b.enter(button, condition)
}
