package web

import (
	"html"
	"net/url"
	"regexp"
)

var (
	inputs  = regexp.MustCompile(`<input([^>]*)>`)
	selects = regexp.MustCompile(`(?s)<select[^>]*name="([^"]*)"[^>]*>(.*?)</select>`)
	chosen  = regexp.MustCompile(`<option value="([^"]*)" selected>`)
	first   = regexp.MustCompile(`<option value="([^"]*)"`)
	name    = regexp.MustCompile(` name="([^"]*)"`)
	value   = regexp.MustCompile(` value="([^"]*)"`)
	kind    = regexp.MustCompile(` type="(checkbox|radio)"`)
)

// formValues reads what a browser would send of a page's fields.
func formValues(page string) url.Values {
	out := url.Values{}
	for _, m := range inputs.FindAllStringSubmatch(page, -1) {
		n := name.FindStringSubmatch(m[1])
		v := value.FindStringSubmatch(m[1])
		if n == nil || (kind.MatchString(m[1]) && !regexp.MustCompile(` checked`).MatchString(m[1])) {
			continue
		}
		text := ""
		if v != nil {
			text = html.UnescapeString(v[1])
		}
		out.Set(html.UnescapeString(n[1]), text)
	}
	for _, m := range selects.FindAllStringSubmatch(page, -1) {
		pick := chosen.FindStringSubmatch(m[2])
		if pick == nil {
			pick = first.FindStringSubmatch(m[2])
		}
		if pick != nil {
			out.Set(html.UnescapeString(m[1]), html.UnescapeString(pick[1]))
		}
	}
	return out
}
