package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestQuoting goes from a plan to a quote of two alternatives, prints it on one sheet, has it accepted on
// the phone, and finds the job moved on with its parts ordered.
func TestQuoting(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/machines/8")
	for i := range 2 {
		b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('[form="quoteform"]')[` + string(rune('0'+i)) + `].focus()`))
		b.keys(" ")
	}
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname.startsWith('/quotes/')`)
	b.checked()
	has(t, b.text(), "Quote Q-0001-1", "Tarn Veterinary Practice", "We found:", "Total", "What accepting does", "puts 1 ×", "Disposal of the battery")
	for paper, box := range map[string]string{"": "594.95", "?paper=letter": "612"} {
		b.visit("/quotes/1" + paper)
		pdf := b.pdf()
		if n := len(sheets.FindAll(pdf, -1)); n != 1 {
			t.Errorf("the quote %s takes %d sheets", paper, n)
		}
		if !strings.Contains(string(pdf), "/MediaBox [0 0 "+box) {
			t.Errorf("the quote %s is not on its paper", paper)
		}
	}
	b.visit("/quotes/1")
	cut := eval[string](b, `[...document.querySelectorAll('.quotesheet *')].filter((e) => e.scrollWidth > e.clientWidth + 1 && e.clientWidth > 0 && !e.closest('svg, .sr')).map((e) => e.className + ': ' + e.innerText.slice(0, 40)).join('; ')`)
	if cut != "" {
		t.Errorf("cut on the sheet: %s", cut)
	}
	// Printed lines add up to the printed total.
	if wrong := eval[string](b, `(() => {
		const cents = (text) => Math.round(Number(text.replace('−', '-').replace(/[^0-9.-]/g, '')) * 100) || 0
		return [...document.querySelectorAll('.qtable thead th')].map((_, i) => {
			let sum = 0, total = 0
			for (const row of document.querySelectorAll('.qtable tbody tr')) {
				const amount = row.querySelectorAll('td')[i]?.querySelector('.mono')?.innerText ?? ''
				if (row.classList.contains('qtotal')) total = cents(amount)
				else if (row.classList.contains('qline')) sum += cents(amount)
			}
			return sum === total ? '' : sum + ' is not ' + total
		}).join('')
	})()`); wrong != "" {
		t.Error(wrong)
	}
	b.tabTo(`[name="/letter"]`)
	b.keys(" ")
	b.tabTo(field("/how"))
	b.keys("phone")
	b.tabTo(`button[value="answer"]`)
	b.follow(`document.querySelector('.fault') !== null`)
	has(t, b.text(), "who said it")
	b.checked()
	b.fill("/who", "the receptionist")
	b.tabTo(`button[value="answer"]`)
	b.follow(`document.querySelector('main').innerText.includes('Accepted 14 May 26')`)
	b.checked()
	b.visit("/jobs/8")
	has(t, b.text(), "As accepted in quote Q-0001-1.", "on order 1, due 21 May 26", "quote Q-0001-1, A")
	b.checked()
	b.quiet()
}

// TestQuoteByLink: the customer reads the quote on a phone by its link, chooses and sends; the page has
// nothing of the shop's own, and afterwards the link leads nowhere.
func TestQuoteByLink(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/machines/8")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[form="quoteform"]').click()`))
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname.startsWith('/quotes/')`)
	b.tabTo(`button[value="link"]`)
	b.follow(`document.querySelector('.qlink') !== null`)
	b.checked()
	link := eval[string](b, `document.querySelector('.qlink').innerText`)
	b.do(chromedp.EmulateViewport(390, 844))
	b.do(chromedp.Navigate(b.base + link))
	b.until(`document.readyState === 'complete' && !!document.querySelector('main')`)
	b.noOverflow()
	b.checked()
	if body := eval[string](b, `document.body.innerText`); strings.Contains(body, "R. Okell") || strings.Contains(body, "Machines") || strings.Contains(body, "YB-0008") {
		t.Error("the page has what is the shop's own")
	}
	b.tabTo(`[name="/letter"]`)
	b.keys(" ")
	b.fill("/who", "The vet")
	for _, code := range eval[[]string](b, `[...document.querySelectorAll('.linkanswer [name^="/consents/"]')].map((e) => e.name)`) {
		b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="` + code + `"]').click()`))
	}
	b.tabTo(`.linkanswer .button.main`)
	b.follow(`document.querySelector('main').innerText.includes('Thank you')`)
	b.noOverflow()
	b.do(chromedp.Navigate(b.base + link))
	b.until(`document.readyState === 'complete' && document.querySelector('main').innerText.includes('leads nowhere')`)
	b.visit("/quotes/1")
	has(t, b.text(), "Accepted 14 May 26", "The vet, by the link")
}
