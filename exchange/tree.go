package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
)

// MaxDocument is the largest document that is read, in bytes.
const MaxDocument = 16 << 20

// maxDepth is how deep a document may nest; ours need seven levels. maxValues is how many values it may
// hold, so that a short text does not become a large tree, and maxFields how many one object may have.
const (
	maxDepth  = 32
	maxValues = 500_000
	maxFields = 1000
)

// readTree parses JSON into maps, lists and json.Numbers. It is stricter than
// encoding/json where leniency would lose something: a field given twice, bytes
// behind the document and text that is not UTF-8 are faults, and so is a number
// that our exact decimals cannot hold. Whole numbers written as 8.0 become 8.
func readTree(data []byte) (any, error) {
	if len(data) > MaxDocument {
		return nil, hw.Faults{{Text: fmt.Sprintf("the document has %d bytes; at most %d MB are read", len(data),
			MaxDocument>>20)}}
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(data) {
		return nil, hw.Faults{{Text: fmt.Sprintf("the document is not UTF-8 (first wrong byte at %s)",
			position(data, invalidAt(data)))}}
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	t := &treeReader{d: d}
	tree, err := t.value("", 0)
	if err == nil {
		if _, more := d.Token(); !errors.Is(more, io.EOF) {
			err = errors.New("something follows the end of the document")
		}
	}
	if err != nil {
		var fault hw.Fault
		if errors.As(err, &fault) {
			return nil, hw.Faults{fault}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			err = errors.New("the document ends too early")
		}
		return nil, hw.Faults{{Text: fmt.Sprintf("%s: %v", position(data, int(d.InputOffset())), err)}}
	}
	return tree, t.faults.Err()
}

type treeReader struct {
	d      *json.Decoder
	faults hw.Faults
	values int
}

func (t *treeReader) value(at string, depth int) (any, error) {
	if depth > maxDepth {
		return nil, hw.Fault{Pointer: at, Text: fmt.Sprintf("nested deeper than %d levels", maxDepth)}
	}
	if t.values++; t.values > maxValues {
		return nil, hw.Fault{Pointer: at, Text: fmt.Sprintf("the document holds more than %d values", maxValues)}
	}
	token, err := t.d.Token()
	if err != nil {
		return nil, err
	}
	switch x := token.(type) {
	case json.Delim:
		if x == '{' {
			return t.object(at, depth)
		}
		return t.list(at, depth)
	case json.Number:
		return t.number(at, x), nil
	}
	return token, nil
}

func (t *treeReader) object(at string, depth int) (any, error) {
	out := map[string]any{}
	for t.d.More() {
		token, err := t.d.Token()
		if err != nil {
			return nil, err
		}
		name, ok := token.(string)
		if !ok {
			return nil, fmt.Errorf("a field name is expected, %v stands there", token)
		}
		if len(out) == maxFields {
			return nil, hw.Fault{Pointer: at, Text: fmt.Sprintf("an object of more than %d fields", maxFields)}
		}
		here := at + "/" + hw.EscapePointer(name)
		if _, twice := out[name]; twice {
			t.faults.Add(here, hw.FaultDuplicate, strconv.Quote(name), "each field once")
		}
		if out[name], err = t.value(here, depth+1); err != nil {
			return nil, err
		}
	}
	_, err := t.d.Token()
	return out, err
}

func (t *treeReader) list(at string, depth int) (any, error) {
	out := []any{}
	for t.d.More() {
		v, err := t.value(at+"/"+strconv.Itoa(len(out)), depth+1)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	_, err := t.d.Token()
	return out, err
}

func (t *treeReader) number(at string, n json.Number) json.Number {
	// Bytes of a drive are counted whole, and are more than a decimal holds.
	if bytes, err := strconv.ParseInt(n.String(), 10, 64); err == nil && bytes >= 0 && strings.HasSuffix(at, "_bytes") {
		return n
	}
	exact, err := hw.ParseDec(n.String())
	if err != nil {
		if len(t.faults) < hw.MaxFaults {
			t.faults = append(t.faults, hw.Fault{Pointer: at, Text: err.Error()})
		}
		return "0"
	}
	return json.Number(exact.String())
}

// position says where a byte is, as people count.
func position(data []byte, offset int) string {
	offset = min(offset, len(data))
	line := 1 + bytes.Count(data[:offset], []byte("\n"))
	column := offset - bytes.LastIndexByte(data[:offset], '\n')
	return fmt.Sprintf("line %d, column %d", line, column)
}

func invalidAt(data []byte) int {
	for i := 0; i < len(data); {
		r, size := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && size == 1 {
			return i
		}
		i += size
	}
	return len(data)
}
