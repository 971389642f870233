package jobs

import (
	"fmt"
	"slices"
	"strings"

	"yembo/core/hw"
)

// Talk is a talk with the customer as it was typed in one line.
type Talk struct {
	Contact
	Consents []hw.Consent
}

// ParseTalk reads a line such as
//
//	phone J. Farrow: the drive comes first; agreed: 1 TB; consents: seal, data
//
// The first word says how it was held, what stands before the colon with whom, then what was said.
// After "agreed:" stands what was agreed, after "consents:" which were given, by their short names or as the pages say them.
// A semicolon parts them. A consent is never read out of free words. The error is hw.Faults at
// /talk with the column.
func ParseTalk(line string) (Talk, error) {
	var t Talk
	fault := func(at int, text string) error {
		return hw.Faults{{Pointer: "/talk", Text: fmt.Sprintf("column %d: %s", len([]rune(line[:at]))+1, text)}}
	}
	rest := strings.TrimLeft(line, " ")
	at := len(line) - len(rest)
	word := rest
	if i := strings.IndexAny(rest, " :"); i >= 0 {
		word = rest[:i]
	}
	t.How = strings.ToLower(word)
	if !slices.Contains(ContactWays, t.How) {
		return t, fault(at, "begin with how it was held: "+strings.Join(ContactWays, ", "))
	}
	at += len(word)
	head, said, named := strings.Cut(line[at:], ":")
	if !named || strings.Contains(head, ";") || beginsPart(head) {
		head, said = "", line[at:]
	} else {
		at += len(head) + 1
	}
	t.Who = strings.TrimSpace(head)
	for said != "" {
		piece, next, more := strings.Cut(said, ";")
		if err := t.take(piece, func(in int, text string) error { return fault(at+in, text) }); err != nil {
			return t, err
		}
		at += len(piece)
		if more {
			at++
		}
		said = next
	}
	if t.Said == "" && t.Agreed == "" && len(t.Consents) == 0 {
		return t, fault(len(line), "what was said or agreed is missing")
	}
	return t, nil
}

// beginsPart reports whether the words before a colon begin a part of the line, and name nobody.
func beginsPart(head string) bool {
	head = strings.TrimSpace(head)
	return strings.EqualFold(head, "agreed") || strings.EqualFold(head, "consents") || strings.EqualFold(head, "consent")
}

// take reads one part of the line.
func (t *Talk) take(piece string, fault func(int, string) error) error {
	name, text, named := strings.Cut(piece, ":")
	if !named || !beginsPart(name) {
		if words := strings.TrimSpace(piece); words != "" && t.Said == "" {
			t.Said = words
		} else if words != "" {
			t.Said += "; " + words
		}
		return nil
	}
	if strings.EqualFold(strings.TrimSpace(name), "agreed") {
		t.Agreed = strings.TrimSpace(text)
		return nil
	}
	at := len(name) + 1
	for _, word := range strings.SplitAfter(text, ",") {
		short := strings.ToLower(strings.Trim(word, " ,"))
		i := slices.IndexFunc(hw.Consents, func(row hw.ConsentRow) bool {
			return row.Short == short || strings.EqualFold(row.Says, short)
		})
		switch {
		case short == "":
		case i < 0:
			return fault(at+len(word)-len(strings.TrimLeft(word, " ")), fmt.Sprintf("%q is no consent: %s", short,
				strings.Join(hw.ConsentNames(), ", ")))
		case !slices.Contains(t.Consents, hw.Consents[i].Consent):
			t.Consents = append(t.Consents, hw.Consents[i].Consent)
		}
		at += len(word)
	}
	return nil
}
