package kit

import (
	"bytes"

	"golang.org/x/net/html"

	"yembo/shop/people"
)

// withoutWhatMayNot hides what a person may not do from a page: forms, links and buttons of routes that ask for a right that
// they have not. It is looked for in the page that was made, so that no template can forget it. What a colleague can lend a PIN
// for is shown: it asks for that.
func withoutWhatMayNot(page []byte, v *Visitor) []byte {
	barred := map[string]bool{} // ids of forms that are hidden, for buttons outside of them
	eachTag(page, func(tag *html.Token, _ int) {
		if tag.Data == "form" && v.barred("POST", attribute(tag, "action")) && attribute(tag, "method") == "post" {
			barred[attribute(tag, "id")] = true
		}
	})
	delete(barred, "")
	var out bytes.Buffer
	last := 0
	eachTag(page, func(tag *html.Token, end int) {
		hide := false
		switch tag.Data {
		case "form":
			hide = attribute(tag, "method") == "post" && v.barred("POST", attribute(tag, "action"))
		case "a":
			hide = v.barred("GET", attribute(tag, "href"))
		case "button", "input", "select", "textarea":
			hide = barred[attribute(tag, "form")] || attribute(tag, "formaction") != "" && v.barred("POST", attribute(tag, "formaction"))
		}
		if !hide {
			return
		}
		at := end - 1
		if page[at-1] == '/' {
			at--
		}
		out.Write(page[last:at])
		out.WriteString(" hidden")
		last = at
	})
	out.Write(page[last:])
	return out.Bytes()
}

// barred reports whether a person has nothing of the right that an address of this application asks for, not even on loan.
func (v *Visitor) barred(method, address string) bool {
	route := routeOf(method, address)
	if route == "" {
		return false
	}
	right := rights[method+" "+route]
	return right != people.Open && v.May(right) == people.No
}

// eachTag calls for each tag that begins, with where it ends in the page.
func eachTag(page []byte, f func(tag *html.Token, end int)) {
	z := html.NewTokenizer(bytes.NewReader(page))
	at := 0
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			return // its end
		}
		at += len(z.Raw())
		if kind == html.StartTagToken || kind == html.SelfClosingTagToken {
			tag := z.Token()
			f(&tag, at)
		}
	}
}

func attribute(tag *html.Token, name string) string {
	for _, a := range tag.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}
