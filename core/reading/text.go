package reading

import (
	"bytes"
	"encoding/binary"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"yembo/core/hw"
)

// plain brings a report into UTF-8 without a byte order mark: UTF-16 is read by its
// mark. Line ends stay; readers trim them.
func plain(data []byte) ([]byte, error) {
	switch {
	case bytes.HasPrefix(data, []byte{0xef, 0xbb, 0xbf}):
		data = data[3:]
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}):
		return fromUTF16(data[2:], binary.LittleEndian)
	case bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		return fromUTF16(data[2:], binary.BigEndian)
	}
	if len(bytes.TrimSpace(data)) == 0 {
		return nil, &Refused{Reason: "it is empty"}
	}
	if !utf8.Valid(data) {
		// Vendor strings are not always clean; what is not text is shown as such.
		data = bytes.ToValidUTF8(data, []byte("\uFFFD"))
	}
	return data, nil
}

// fromUTF16 writes rune by rune, so that a long text is never held in wide letters.
func fromUTF16(data []byte, order binary.ByteOrder) ([]byte, error) {
	text := make([]byte, 0, len(data)/2+len(data)/16)
	for i := 0; i+1 < len(data); i += 2 {
		r := rune(order.Uint16(data[i:]))
		if utf16.IsSurrogate(r) {
			low := rune(0)
			if i+3 < len(data) {
				low = rune(order.Uint16(data[i+2:]))
			}
			if r = utf16.DecodeRune(r, low); r != utf8.RuneError {
				i += 2
			}
		}
		text = utf8.AppendRune(text, r)
	}
	if len(bytes.TrimSpace(text)) == 0 {
		return nil, &Refused{Reason: "it is empty"}
	}
	return text, nil
}

// eachLine calls f with every line, without its end. The lines are parts of one text:
// what is kept of them goes through said, which copies it.
func eachLine(text []byte, f func(line string)) {
	rest := string(text)
	for rest != "" {
		var line string
		line, rest, _ = strings.Cut(rest, "\n")
		f(strings.TrimSuffix(line, "\r"))
	}
}

// wanted numbers the fields of a report that are read; row holds their values.
type wanted map[string]int

type row [16]string

func fields(names ...string) wanted {
	w := wanted{}
	for i, name := range names {
		w[name] = i
	}
	return w
}

// set keeps a field that is wanted; the first of its name counts.
func (w wanted) set(r *row, name, value string) {
	if i, ok := w[name]; ok && r[i] == "" {
		r[i] = strings.TrimSpace(value)
	}
}

// get returns a field, "" where it is not there.
func (w wanted) get(r *row, name string) string { return r[w[name]] }

// placeholders are what firmware writes where nobody filled a field in.
var placeholders = map[string]bool{"unknown": true, "not specified": true, "undefined": true, "not available": true,
	"n/a": true, "none": true, "default string": true,
	"system product name": true, "system manufacturer": true, "system serial number": true, "system version": true,
	"not provided": true, "<out of spec>": true, "<bad index>": true, "not present": true,
	"[empty]": true, "empty": true, "no dimm": true, "invalid": true, "o.e.m.": true}

// said returns a field as it was said, "" for a placeholder.
func said(text string) string {
	text = strings.TrimSpace(text)
	low := strings.ToLower(text)
	if placeholders[low] || strings.HasPrefix(low, "to be filled by") {
		return ""
	}
	return strings.Clone(text)
}

// saidSerial is said, and not made of zeros alone.
func saidSerial(text string) string {
	text = said(text)
	if strings.Trim(strings.TrimPrefix(strings.TrimPrefix(text, "0x"), "0X"), "0") == "" {
		return ""
	}
	return text
}

// leadingInt reads the whole number that a text starts with.
func leadingInt(text string) (int, bool) {
	text = strings.TrimSpace(text)
	end := 0
	for end < len(text) && text[end] >= '0' && text[end] <= '9' {
		end++
	}
	if end == 0 || end > 9 {
		return 0, false
	}
	n, err := strconv.Atoi(text[:end])
	return n, err == nil
}

// figure reads a decimal number and the unit after it ("39.2 Wh", "39,2 Wh").
func figure(text string) (hw.Dec, string, bool) {
	number, unit, _ := strings.Cut(strings.TrimSpace(text), " ")
	d, err := hw.ParseDec(strings.ReplaceAll(number, ",", "."))
	return d, strings.TrimSpace(unit), err == nil
}

// sizeGB reads a size of memory in its unit.
func sizeGB(text string) (hw.Dec, bool) {
	n, unit, ok := figure(text)
	if !ok || n < 0 {
		return 0, false
	}
	switch strings.ToLower(unit) {
	case "tb":
		return n * 1024, n < hw.DecOf(1000)
	case "gb":
		return n, true
	case "mb":
		return n / 1024, true
	case "kb":
		return n / 1024 / 1024, true
	}
	return 0, false
}

// bytesGB is a number of bytes in GB of 2^30.
func bytesGB(n int64) hw.Dec {
	const gb = 1 << 30
	return hw.DecOf(int(n/gb)) + hw.Dec(n%gb*1_000_000/gb)
}

// fromMilli is a positive count of thousandths (mWh, mV), in units to two places, as the
// figures of packs are kept.
func fromMilli(thousandths int64) hw.Dec { return (hw.Dec(thousandths) * 1000).Hundredths() }

// likely keeps a figure that is above zero and not absurd.
func likely(d hw.Dec) hw.Maybe[hw.Dec] {
	if d <= 0 || d > hw.DecOf(100_000) {
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(d)
}

func positive(n int) hw.Maybe[int] {
	if n <= 0 {
		return hw.Maybe[int]{}
	}
	return hw.Known(n)
}
