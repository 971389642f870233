package browser

import (
	"testing"

	"github.com/chromedp/chromedp"
)

const password, ownersPIN, counterPIN = "ferry boat lantern", "4711", "1357"

// secure gives the demo's people a password and PINs, as the owner does in the settings, and signs the owner in.
func (b *tab) secure() {
	b.t.Helper()
	b.person("/people/2", "", "2580")
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

// TestPeople: an owner lets people in and enrols a tablet by keyboard; there somebody of the counter comes by face and PIN, keeps
// what was typed when asked who they are, is refused what is not theirs, and is lent a PIN for it, on a screen of 390 px.
func TestPeople(t *testing.T) {
	at := application(t, true)
	owner := open(t, at)
	owner.secure()
	owner.checked()
	owner.fill("/name", "Counter")
	owner.fill("/bench", "0")
	owner.enter("Enrol a screen", `document.body.innerText.includes('Type it on the new screen')`)
	owner.checked()
	code := eval[string](owner, `document.body.innerText.match(/[A-Z0-9]{4}-[A-Z0-9]{4}/)[0]`)

	tablet := open(t, at)
	tablet.do(chromedp.EmulateViewport(390, 844))
	tablet.visit("/enrol")
	tablet.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#code').focus()`))
	tablet.keys(code)
	tablet.enter("Enrol", `location.pathname === '/signin'`)
	has(t, tablet.text(), "Who works here?", "C. Wray")
	tablet.checked()
	tablet.noOverflow()
	tablet.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="~person"][value="3"]').focus()`))
	tablet.keys(" ")
	tablet.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#pin').focus()`))
	tablet.keys(counterPIN)
	tablet.enter("Go on", `location.pathname === '/machines/new'`)
	tablet.visit("/machines/8")
	tablet.tabTo(`form[action$="/choice"] button`)
	tablet.keys("\r")
	tablet.until(`document.querySelector('h1')?.innerText === 'Not yours to do'`)
	has(t, tablet.text(), "Plan upgrades", "R. Okell", "T. Ansty")
	tablet.checked()
	tablet.noOverflow()
	tablet.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#pin').focus()`))
	tablet.keys(ownersPIN)
	tablet.enter("Do it this once", `location.pathname.endsWith('/card')`)
	tablet.visit("/people")
	has(t, tablet.text(), "People, rights and screens: only R. Okell may do this")

	owner.visit("/journal")
	has(t, owner.text(), "PIN lent to C. Wray, once: plan upgrades", "screen enrolled")
	owner.checked()
	owner.do(chromedp.EmulateViewport(390, 844))
	owner.visit("/people")
	owner.noOverflow()
	owner.quiet()
}
