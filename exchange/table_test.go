package exchange

import (
	"strings"
	"testing"
	"unicode/utf16"
)

// TestReadTable: separators and encodings are found out; a faulty row is named with its
// line, the others are read.
func TestReadTable(t *testing.T) {
	text := "Customer;Model; Serial\nWath;QA14-2;S1\n\n\"two\nlines\";QA14-2;S2\nshort;QA14-2\n\"open;x;y\n"
	utf16le := []byte{0xff, 0xfe}
	for _, u := range utf16.Encode([]rune(text)) {
		utf16le = append(utf16le, byte(u), byte(u>>8))
	}
	for how, in := range map[string][]byte{"UTF-8": []byte("\xef\xbb\xbf" + text), "UTF-16": utf16le,
		"tabs": []byte(strings.ReplaceAll(text, ";", "\t"))} {
		tab, err := ReadTable(in)
		if err != nil {
			t.Errorf("%s: %v", how, err)
			continue
		}
		if len(tab.Head) != 3 || tab.Head[2] != "Serial" || len(tab.Rows) != 4 || tab.Rows[1].Line != 4 ||
			tab.Rows[1].Cells[0] != "two\nlines" {
			t.Errorf("%s: %+v", how, tab)
		}
		if len(tab.Rows) == 4 && (tab.Rows[0].Fault != "" || tab.Rows[2].Fault != "2 cells, the head has 3" ||
			tab.Rows[2].Line != 6 || tab.Rows[3].Fault == "") {
			t.Errorf("%s: faults %+v", how, tab.Rows)
		}
	}
	for in, want := range map[string]string{"": "empty", "a\x00b": "not UTF-8",
		"a,b\n" + strings.Repeat("1,2\n", MaxTableRows+1): "more than", "a\n" + strings.Repeat("x", 5000): ""} {
		tab, err := ReadTable([]byte(in))
		if want == "" {
			if err != nil || !strings.Contains(tab.Rows[0].Fault, "characters") {
				t.Errorf("a long cell: %v %v", tab, err)
			}
		} else if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.20q: %v", in, err)
		}
	}
	out, err := WriteTable([]string{"a"}, [][]string{{"=1+1"}, {"two, words"}})
	if err != nil || string(out) != "a\n'=1+1\n\"two, words\"\n" {
		t.Errorf("%q %v", out, err)
	}
}

// FuzzTable: whatever a table is, its rows are as many cells as the head or have a fault,
// and what is written of it reads back the same.
func FuzzTable(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "a;b\n\"x;y\";2\r\n", "a\tb\n1\n", "\"\n", "\xff\xfea\x00,\x00b\x00\n\x00",
		"a,b\n=1,-2\n"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		table, err := ReadTable(data)
		if err != nil {
			return
		}
		var rows [][]string
		for _, r := range table.Rows {
			if r.Fault != "" {
				continue
			}
			if len(r.Cells) != len(table.Head) {
				t.Fatalf("line %d has %d cells, the head %d", r.Line, len(r.Cells), len(table.Head))
			}
			rows = append(rows, r.Cells)
		}
		out, err := WriteTable(table.Head, rows)
		if err != nil {
			t.Fatal(err)
		}
		if len(table.Head) < 2 {
			return // one column has no separator to go by
		}
		again, err := ReadTable(out)
		if err != nil || len(again.Rows) > len(rows) {
			t.Fatalf("written as %q it reads as %v, %v", out, again, err)
		}
	})
}
