package shorthand

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
)

// token is one word of a line as it stands.
type token struct {
	text   string
	col    int // in runes, from 1
	size   int // runes it covers
	quoted bool
}

// split cuts a line into words. Quotes keep blanks in a word, alone or within one
// (carry:"mounting screw",pad). A number goes with the unit after it ("3200 MHz"), and
// some words with the number after them ("gen 4").
func split(line string) ([]token, *Fault) {
	var out []token
	runes := []rune(line)
	for i := 0; i < len(runes); {
		if unicode.IsSpace(runes[i]) {
			i++
			continue
		}
		start, quote := i, false
		for ; i < len(runes) && (quote || !unicode.IsSpace(runes[i])); i++ {
			if unicode.IsControl(runes[i]) || runes[i] == unicode.ReplacementChar {
				return nil, &Fault{Col: i + 1, Got: fmt.Sprintf("the control character %U", runes[i]),
					Want: "plain text"}
			}
			if runes[i] == '"' {
				quote = !quote
			}
		}
		if quote {
			return nil, &Fault{Col: start + 1, Got: "a quote is opened and not closed", Want: `"text"`}
		}
		text := string(runes[start:i])
		out = append(out, token{text, start + 1, i - start, text[0] == '"'})
	}
	return join(out), nil
}

var (
	bareNumber = regexp.MustCompile(`^[0-9]+([.,][0-9]+)?$`)
	counted    = regexp.MustCompile(`^[0-9]{1,2}[xX×]$`)
	amount     = regexp.MustCompile(`(?i)^([0-9]{1,2}[x×])?[0-9]+([.,][0-9]+)?(gb)?$`) // before sold
	units      = words("mhz ghz mt/s mts gb mm wh v s min minutes sold soldered cells ch channels pcs")
	leading    = words("gen key max top bot bottom stated maker controller ctl proven hold")
)

func words(list string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(list) {
		out[w] = true
	}
	return out
}

// join puts together what people write apart: 3200 MHz, gen 4, 1x sodimm.
func join(tokens []token) []token {
	var out []token
	for i, t := range tokens {
		if len(out) > 0 && !t.quoted {
			last := &out[len(out)-1]
			low := strings.ToLower(t.text)
			apart := !last.quoted && (bareNumber.MatchString(last.text) && units[low] ||
				i > 1 && leading[strings.ToLower(last.text)] && bareNumber.MatchString(t.text) ||
				i > 1 && strings.EqualFold(last.text, "key") && len(t.text) == 1 ||
				amount.MatchString(last.text) && (low == "sold" || low == "soldered") ||
				counted.MatchString(last.text) || strings.EqualFold(last.text, "mini") && low == "pc")
			if strings.EqualFold(last.text, "mini") && low == "pc" {
				t.text = "" // the word for it is mini
			}
			if apart {
				last.text += t.text
				last.size = t.col + t.size - last.col
				continue
			}
		}
		out = append(out, t)
	}
	return out
}

// Words that say several things at once, taken apart.
var (
	linkWord  = regexp.MustCompile(`(?i)^(g(?:en)?[0-9]+)([x×][0-9]+)$`)
	screwWord = regexp.MustCompile(`(?i)^([0-9]+)[x×]([A-Za-z]+[0-9]*)(?:[x×]([0-9]+(?:[.,][0-9]+)?))?$`)
	typeWord  = regexp.MustCompile(`(?i)^((?:lp)?ddr[0-9][lx]?)-([0-9]+)$`)
	capWord   = regexp.MustCompile(`(?i)^cap([0-9]+)$`)
)

// expand takes apart the words of a kind that say several things at once.
func expand(k *kind, tokens []token) []token {
	var out []token
	for _, t := range tokens {
		several := map[string]*regexp.Regexp{"slots": linkWord}[k.list]
		if k.word == "ram" {
			several = typeWord
		}
		if several != nil && !t.quoted {
			if m := several.FindStringSubmatch(t.text); m != nil {
				first := len([]rune(m[1]))
				second := len([]rune(m[2]))
				out = append(out, token{m[1], t.col, first, false}, token{m[2], t.col + t.size - second, second, false})
				continue
			}
		}
		out = append(out, t)
	}
	return out
}

// unquote takes the quotes off a text.
func unquote(text string) string { return strings.ReplaceAll(text, `"`, "") }

// pieces cuts a list at its commas, those within quotes apart.
func pieces(text string) []string {
	var out []string
	quote, start := false, 0
	for i, r := range text {
		switch {
		case r == '"':
			quote = !quote
		case r == ',' && !quote:
			out = append(out, unquote(text[start:i]))
			start = i + 1
		}
	}
	return append(out, unquote(text[start:]))
}

// quote writes a text as a word: in quotes where it has blanks, commas or what else
// would be read otherwise. A text cannot hold a quote of its own; it is written as two
// single ones.
func quote(text string) string {
	text = strings.ReplaceAll(text, `"`, "''")
	if text == "" ||
		strings.ContainsFunc(
			text,
			func(r rune) bool { return unicode.IsSpace(r) || r == ',' || r == '#' || r == '@' || r == '>' },
		) ||
		text == "none" {
		return `"` + text + `"`
	}
	return text
}

// quoteAll writes a list; an empty one is none.
func quoteAll(list []string) string {
	if len(list) == 0 {
		return "none"
	}
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = quote(x)
	}
	return strings.Join(out, ",")
}
