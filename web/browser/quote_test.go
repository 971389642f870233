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
	// What is recommended is ticked already: its first alternative.
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('[form="quoteform"]:not(:checked)')[0].focus()`))
	b.keys(" ")
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname.startsWith('/quotes/')`)
	b.checked()
	has(
		t,
		b.text(),
		"Quote Q-0001-1",
		"Tarn Veterinary Practice",
		"We found:",
		"Total",
		"If accepted",
		"puts 1 ×",
		"Disposal of the battery",
	)
	for paper, box := range map[string]string{"": "594.95", "?paper=letter": "612"} {
		b.visit("/quotes/1" + paper)
		pdf := b.pdf()
		if n := len(sheets.FindAll(pdf, -1)); n != 1 {
			t.Errorf("the quote %s takes %d sheets", paper, n)
		}
		if !strings.Contains(string(pdf), "/MediaBox [0 0 "+box) {
			t.Errorf("the quote %s is not on its paper", paper)
		}
		read := printedText(t, pdf)
		for _, total := range eval[[]string](b, `[...document.querySelectorAll('.qtotal td .mono')].map((e) => e.innerText)`) {
			if strings.Count(read[0], total) != 2 { // at the foot of its column, and where it is chosen
				t.Errorf("%s stands %d times on paper", total, strings.Count(read[0], total))
			}
		}
	}
	b.visit("/quotes/1")
	cut := eval[string](
		b,
		`[...document.querySelectorAll('.quotesheet *')].filter((e) => e.scrollWidth > e.clientWidth + 1 && e.clientWidth > 0 && !e.closest('svg, .sr')).map((e) => e.className + ': ' + e.innerText.slice(0, 40)).join('; ')`,
	)
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
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname.startsWith('/quotes/')`)
	b.tabTo(`button[value="link"]`)
	b.follow(`document.querySelector('[data-at=qlink]') !== null`)
	b.checked()
	link := eval[string](b, `document.querySelector('[data-at=qlink]').innerText`)
	b.do(chromedp.EmulateViewport(390, 844))
	b.answers(link, "The vet")
	b.visit("/quotes/1")
	has(t, b.text(), "Accepted 14 May 26", "The vet, by the link")
}

// answers reads a quote by its link, on a page that has nothing of the shop's own, and accepts what it offers first.
func (b *tab) answers(link, who string) {
	b.t.Helper()
	b.do(chromedp.Navigate(b.base + link))
	b.until(`document.readyState === 'complete' && !!document.querySelector('main')`)
	b.noOverflow()
	b.checked()
	if body := eval[string](b, `document.body.innerText`); strings.Contains(body, "R. Okell") ||
		strings.Contains(body, "Machines") ||
		strings.Contains(body, "YB-0008") {
		b.t.Error("the page has what is the shop's own")
	}
	b.tabTo(`[name="/letter"]`)
	b.keys(" ")
	b.fill("/who", who)
	for _, code := range eval[[]string](b, `[...document.querySelectorAll('[data-at=linkanswer] [name^="/consents/"]')].map((e) => e.name)`) {
		b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="` + code + `"]').click()`))
	}
	b.tabTo(`[data-at=linkanswer] .button.main`)
	b.follow(`document.querySelector('main').innerText.includes('Thank you')`)
	b.noOverflow()
	b.do(chromedp.Navigate(b.base + link))
	b.until(`document.readyState === 'complete' && document.querySelector('main').innerText.includes('no longer works')`)
}

// TestInvoicing: what was accepted is charged with a change that was agreed, a deposit and a payment in
// parts, and printed; a wrong one is cancelled.
func TestInvoicing(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/machines/8")
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname.startsWith('/quotes/')`)
	b.tabTo(`[name="/letter"]`)
	b.keys(" ")
	b.fill("/who", "the receptionist")
	b.tabTo(`button[value="answer"]`)
	b.follow(`document.querySelector('main').innerText.includes('Accepted 14 May 26')`)
	b.tabTo(`a[href="/jobs/8/bill"]`)
	b.follow(`location.pathname === '/jobs/8/bill'`)
	b.checked()
	has(t, b.text(), "As accepted in quote Q-0001-1.", "Total")
	b.fill("/cents", "50")
	b.tabTo(`form[action="/jobs/8/pay"] .button`)
	b.follow(`document.querySelector('main').innerText.includes('deposit, 14 May 26')`)
	b.fill("/extra/0/text", "A new foot")
	b.fill("/extra/0/cents", "1,50")
	b.tabTo(`form[action="/jobs/8/invoice"] .button.action`)
	b.follow(`document.querySelector('.fault') !== null`)
	has(t, b.text(), "who agreed to it")
	b.checked()
	b.fill("/extra/0/agreed", "the vet")
	b.tabTo(`form[action="/jobs/8/invoice"] .button.action`)
	b.follow(`location.pathname === '/invoices/1'`)
	b.checked()
	has(
		t,
		b.text(),
		"Invoice I-0001",
		"A new foot, agreed with the vet",
		"Paid",
		"50.00",
		"Balance due",
		"Payable within 14 days.",
	)
	if wrong := eval[string](b, `(() => {
		const cents = (row) => Math.round(Number(row.querySelector('.num').innerText.replace('−', '-').replace(/[^0-9.-]/g, '')) * 100)
		const lines = [...document.querySelectorAll('[data-at=invoicelines] tbody tr')].reduce((sum, row) => sum + cents(row), 0)
		const foot = [...document.querySelectorAll('[data-at=invoicelines] tfoot tr')].map((row) => [row.innerText, cents(row)])
		const of = (word) => foot.filter(([text]) => text.startsWith(word)).reduce((sum, [, n]) => sum + n, 0)
		if (lines !== of('Net')) return lines + ' lines are not ' + of('Net')
		if (of('Net') + of('Tax') + of('Rounding') !== of('Total')) return 'the total is not what is above it'
		return of('Total') - of('Paid') !== of('Balance') ? 'what is still to be paid is wrong' : ''
	})()`); wrong != "" {
		t.Error(wrong)
	}
	read := printedText(t, b.pdf())
	if len(read) != 1 || !strings.Contains(read[0], "I-0001") {
		t.Fatalf("the invoice is printed as %q", read)
	}
	// Six lines, net, tax, total, paid, still to be paid: read back from the paper they add up.
	on := printedAmounts(read[0])
	if len(on) != 11 {
		t.Fatalf("on paper stand %v", on)
	}
	lines := 0
	for _, n := range on[:6] {
		lines += n
	}
	if net, tax, total, paid, owed := on[6], on[7], on[8], on[9], on[10]; lines != net || net+tax != total ||
		total-paid != owed ||
		paid != 5000 {
		t.Errorf("on paper stand %v", on)
	}
	// As many lines as an invoice can have go on to a second sheet, each once, the sums below the last.
	b.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const body = document.querySelector('[data-at=invoicelines] tbody'), row = body.querySelector('tr')
		body.replaceChildren(...Array.from({ length: 60 }, (_, i) => {
			const next = row.cloneNode(true)
			next.querySelector('.num').innerText = i + 100 + '.01'
			return next
		}))
	})()`))
	read = printedText(t, b.pdf())
	if len(read) != 2 {
		t.Fatalf("60 lines are printed on %d sheets", len(read))
	}
	on = printedAmounts(read[0] + " " + read[1])
	for i := range 60 {
		if len(on) != 65 || on[i] != (i+100)*100+1 {
			t.Fatalf("of 60 lines stand on paper %v", on)
		}
	}
	b.visit("/jobs/8/bill")
	b.tabTo(`form[action="/jobs/8/pay"] .button`)
	b.follow(`document.querySelector('main').innerText.includes('paid')`)
	b.visit("/invoices")
	has(t, b.text(), "I-0001", "paid")
	b.checked()
	b.visit("/find?code=i-1")
	has(t, b.text(), "“i-1” is an invoice.")
	b.tabTo(`[data-at=invoiceafter] summary`)
	b.keys("\r")
	b.fill("/why", "the wrong customer")
	b.tabTo(`form[action="/invoices/1/cancel"] .button`)
	b.follow(`location.pathname === '/invoices/2'`)
	has(t, b.text(), "Cancelling invoice I-0002", "Cancels I-0001. the wrong customer", "−")
	b.do(chromedp.EmulateViewport(390, 844))
	for _, page := range []string{"/invoices/2", "/invoices", "/jobs/8/bill", "/quotes/1"} {
		b.visit(page)
		b.noOverflow()
	}
	b.quiet()
}
