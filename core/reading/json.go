package reading

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// maxJSON is the largest JSON report: they are read into a tree, which takes several
// times their size.
const maxJSON = 8 << 20

// kindOfJSON tells the JSON reports apart by the names they hold.
func kindOfJSON(text []byte) (reader, string) {
	has := func(names ...string) bool {
		for _, n := range names {
			if bytes.Contains(text, []byte(`"`+n+`"`)) {
				return true
			}
		}
		return false
	}
	switch {
	case has("smartctl"):
		return (*Observed).smartctl, "smartctl"
	case has("percent_used", "percentage_used", "avail_spare") && has("critical_warning"), has("tnvmcap"),
		has("sn") && has("mn"), has("Devices") && has("SerialNumber", "Subsystems", "DevicePath"):
		return (*Observed).nvme, "nvme"
	case has("CimClass", "CreationClassName", "SMBIOSMemoryType", "ConfiguredClockSpeed", "MaxCapacityEx",
		"SMBIOSBIOSVersion", "DesignedCapacity", "FullChargedCapacity", "BusType", "InterfaceType"):
		return (*Observed).cim, "cim"
	case has("class") && has("id"):
		return (*Observed).lshw, "lshw"
	}
	return nil, ""
}

// objects reads the JSON values of a text, one after the other: some tools print several.
func objects(text []byte) ([]any, error) {
	if len(text) > maxJSON {
		return nil, &Refused{Reason: fmt.Sprintf("a JSON report of more than %d MB is none of one machine",
			maxJSON>>20)}
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	var out []any
	for {
		var v any
		err := d.Decode(&v)
		switch {
		case errors.Is(err, io.EOF):
			return out, nil
		case err != nil:
			return nil, jsonFault(text, d, err)
		}
		out = append(out, v)
	}
}

func jsonFault(text []byte, d *json.Decoder, err error) error {
	at := int(d.InputOffset())
	reason := "it is not whole JSON"
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		at = int(syntax.Offset)
		reason += ": " + syntax.Error()
	}
	if errors.Is(err, io.ErrUnexpectedEOF) {
		at = len(text)
		reason = "it is cut off: the JSON does not end"
	}
	at = min(max(at, 0), len(text))
	line := 1 + bytes.Count(text[:at], []byte("\n"))
	column := len([]rune(string(text[bytes.LastIndexByte(text[:at], '\n')+1:at]))) + 1
	return &Refused{reason, line, column}
}

type object = map[string]any

// at walks down names; nil where there is no such thing.
func at(v any, names ...string) any {
	for _, n := range names {
		o, _ := v.(object)
		v = o[n]
	}
	return v
}

// str is a text, "" for anything else.
func str(v any) string {
	s, _ := v.(string)
	return s
}

// whole is a whole number, also one that is written as a text or with a point.
func whole(v any) (int64, bool) {
	var text string
	switch x := v.(type) {
	case json.Number:
		text = x.String()
	case string:
		text = strings.TrimSpace(x)
	default:
		return 0, false
	}
	if n, err := strconv.ParseInt(text, 10, 64); err == nil {
		return n, true
	}
	f, err := strconv.ParseFloat(text, 64)
	if err != nil || f != f || f > 1e18 || f < -1e18 {
		return 0, false
	}
	return int64(f), true
}

// small is whole for figures that fit in an int.
func small(v any) (int, bool) {
	n, ok := whole(v)
	if !ok || n > 1e9 || n < -1e9 {
		return 0, false
	}
	return int(n), true
}

// list is a list, or the one thing that stands in place of one.
func list(v any) []any {
	switch x := v.(type) {
	case []any:
		return x
	case object:
		return []any{x}
	}
	return nil
}
