package shorthand

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/label"
)

// partWord is one pattern of the words about a part. read keeps what the word says and tells it; wrong
// is what cannot be, "" for nothing.
type partWord struct {
	like   *regexp.Regexp
	detail string // what kind of fact that is
	again  bool   // it may be said several times
	when   func(l *PartLine, m []string) bool
	read   func(l *PartLine, m []string) (means, wrong string)
}

func like(pattern string) *regexp.Regexp { return regexp.MustCompile(`(?i)^(?:` + pattern + `)$`) }

// partWords is the table of them; the first that takes a word has it.
var partWords []partWord

func init() { // the table speaks of functions that speak of it
	partWords = []partWord{
		{like: like(`([0-9]{1,4})(?:pcs|pieces|pc|x|×)`), detail: "how many",
			read: func(l *PartLine, m []string) (string, string) {
				return m[1] + " pieces", wholeInto(&l.Pieces, m[1], 1, 10_000)
			}},
		{like: like(`[€£$]?[0-9][0-9.,'’]*[.,][0-9]{2}(?:[€£$]|[a-z]{3})?|[€£$][0-9]+|(?:eur|gbp|usd|chf)[0-9][0-9.,]*|` +
			`[0-9][0-9.,'’]*(?:€|£|\$|eur|gbp|usd|chf)`),
			detail: "price", read: func(l *PartLine, m []string) (string, string) {
				cents, err := hw.ParseMoney(m[0], l.currency)
				if err != nil {
					return "", err.Error()
				}
				l.Part.PriceCents, l.Priced = cents, true
				return hw.Money(l.currency, cents), ""
			}},
		{like: like(`([0-9]{1,3})(?:d|day|days)`), detail: "to be had in",
			read: func(l *PartLine, m []string) (string, string) {
				return m[1] + " days", wholeInto(&l.Part.LeadDays, m[1], 0, 365)
			}},
		{like: like(`low:?([0-9]{1,4})`), detail: "reorder level",
			read: func(l *PartLine, m []string) (string, string) {
				return "at least " + m[1] + " free", wholeInto(&l.Low, m[1], 0, 10_000)
			}},
		{like: like(`orderable|to-order`), detail: "to be had", read: func(l *PartLine, _ []string) (string, string) {
			l.Orderable = true
			return "can be ordered", ""
		}},
		{like: like(`uncounted|there`), detail: "counting", read: func(l *PartLine, _ []string) (string, string) {
			l.Uncounted = true
			return "in stock, not counted", ""
		}},
		{like: like(`pulled|used`), detail: "where from", read: func(l *PartLine, _ []string) (string, string) {
			l.Part.Source = hw.OriginPulled
			return "out of a machine", ""
		}},
		{like: like(`no:(.+)`), detail: "supplier's number", read: func(l *PartLine, m []string) (string, string) {
			l.Number = unquote(m[1])
			return l.Number, ""
		}},
		{like: like(`from:(.+)`), detail: "supplier", read: func(l *PartLine, m []string) (string, string) {
			l.Supplier = unquote(m[1])
			return l.Supplier, ""
		}},
		{like: like(`kit:?([0-9]{1,2})`), detail: "one purchase brings",
			read: func(l *PartLine, m []string) (string, string) {
				return m[1] + " pieces", wholeInto(&l.Part.Count, m[1], 1, 100)
			}},
		{like: like(`(?:gives|provides):([a-z0-9-]+)`), detail: "what it gives",
			read: func(l *PartLine, m []string) (string, string) {
				l.Part.Provides = strings.ToLower(m[1])
				return l.Part.Provides, ""
			}},
		{like: like(`kind:([a-z]+)`), detail: "kind", read: kindWord},
		// Batteries.
		{like: like(`([0-9]{1,3}(?:[.,][0-9]+)?)wh`), detail: "energy when new",
			read: func(l *PartLine, m []string) (string, string) {
				l.said["kind battery"] = true
				return m[1] + " Wh", decInto(&l.pack().DesignWh, m[1])
			}},
		{like: like(`([1-9])(?:s|cells)`), detail: "cells in series",
			read: func(l *PartLine, m []string) (string, string) {
				return m[1] + " cells in series", wholeInto(&l.pack().Series, m[1], 1, 9)
			}},
		{like: like(`([0-9]{1,2}[.,][0-9]{1,2}|[5-9]|[1-9][0-9])v`), detail: "voltage",
			read: func(l *PartLine, m []string) (string, string) {
				if v, err := hw.ParseDec(strings.ReplaceAll(m[1], ",", ".")); err == nil && v < hw.DecOf(2) {
					return m[1] + " V", decInto(&l.memory().Voltage, m[1])
				}
				return m[1] + " V", decInto(&l.pack().NominalV, m[1])
			}},
		{like: like(`pn:(.+)`), detail: "part number", read: func(l *PartLine, m []string) (string, string) {
			number := unquote(m[1])
			l.pack().PartNumber, l.card().PartNumber, l.memory().PartNumber = number, number, number
			return number, ""
		}},
		// Wireless cards.
		{like: like(`wi-?fi-?([4-7]e?)`), detail: "standard", read: func(l *PartLine, m []string) (string, string) {
			standard := hw.Standard("wifi" + strings.ToLower(m[1]))
			if hw.Standards.Index(standard) < 0 {
				return "", "there is no such standard"
			}
			l.said["kind wireless"] = true
			l.card().Standard = standard
			return hw.Standards.Says(standard), ""
		}},
		{like: like(`cnvi2?|pcie|usb`), detail: "interface of the card",
			read: func(l *PartLine, m []string) (string, string) {
				l.card().Interface = hw.Interface(strings.ToLower(m[0]))
				return hw.CardInterfaces.Says(l.card().Interface), ""
			}},
		{like: like(`([0-9]{1,2})(?:ant|antennas)`), detail: "antennas",
			read: func(l *PartLine, m []string) (string, string) {
				return m[1] + " antennas", wholeInto(&l.card().Antennas, m[1], 0, 16)
			}},
		// Drives.
		{like: like(`([0-9]{1,3}(?:[.,][0-9]+)?)tb`), detail: "capacity",
			read: func(l *PartLine, m []string) (string, string) {
				tb, err := hw.ParseDec(strings.ReplaceAll(m[1], ",", "."))
				if err != nil {
					return "", err.Error()
				}
				l.said["kind drive"] = true
				l.drive().Capacity = hw.Known(tb * 1000)
				return m[1] + " TB", ""
			}},
		{like: like(`nvme|sata`), detail: "interface", read: func(l *PartLine, m []string) (string, string) {
			l.said["kind drive"] = true
			l.drive().Interface = hw.Interface(strings.ToLower(m[0]))
			return hw.Interfaces.Says(l.drive().Interface), ""
		}},
		{like: like(`g(?:en)?-?([1-6])(?:[x×]([1-9][0-9]?))?`), detail: "link",
			read: func(l *PartLine, m []string) (string, string) {
				wrong := wholeInto(&l.drive().Gen, m[1], 1, 6)
				words := "generation " + m[1]
				if m[2] != "" {
					words += ", " + m[2] + " lanes"
					wrong += wholeInto(&l.drive().Lanes, m[2], 1, 16)
				}
				return words, wrong
			}},
		{like: like(`[x×]([1-9][0-9]?)`), detail: "lanes", read: func(l *PartLine, m []string) (string, string) {
			return m[1] + " lanes", wholeInto(&l.drive().Lanes, m[1], 1, 16)
		}},
		{like: like(`(?:m\.?2-?)?((?:12|16|22|30)[0-9]{2,3}(?:-[a-z0-9]+)*)`), detail: "M.2 size",
			when: func(_ *PartLine, m []string) bool {
				_, err := label.ParseM2(m[1])
				return err == nil || strings.ContainsAny(m[0], "m.M-")
			}, read: m2Word},
		{like: like(`(?:key:?)?([abem](?:\+[abem])?)`), detail: "key",
			when: func(l *PartLine, m []string) bool { return strings.ContainsAny(m[0], "+:") || len(m[0]) > 3 },
			read: func(l *PartLine, m []string) (string, string) {
				l.drive().Key = hw.Known(strings.ToUpper(m[1]))
				return "key " + strings.ToUpper(m[1]), ""
			}},
		{like: like(`2[.,]5(?:in|inch|"|”|-inch)?`), detail: "form", read: func(l *PartLine, _ []string) (string, string) {
			l.said["kind drive"] = true
			l.drive().Form = hw.Form25
			return "2.5 inch", ""
		}},
		{like: like(`([0-9]{1,2}(?:[.,][0-9]+)?)mm`), detail: "height", read: func(l *PartLine, m []string) (string, string) {
			return m[1] + " mm high", decInto(&l.drive().Height, m[1])
		}},
		{like: like(`clocked`), detail: "clock", read: func(l *PartLine, _ []string) (string, string) {
			l.said["kind memory"] = true
			l.memory().Clocked = hw.Known(true)
			return "with a clock driver of its own", ""
		}},
		{like: like(`hdd|spinning`), detail: "how it stores", read: func(l *PartLine, _ []string) (string, string) {
			l.said["kind drive"] = true
			l.drive().Rotational = hw.Known(true)
			return "spinning", ""
		}},
		{like: like(`ssd|solid`), detail: "how it stores", read: func(l *PartLine, _ []string) (string, string) {
			l.said["kind drive"] = true
			return "solid", ""
		}},
		{like: like(`(single|one|1|two|double|2)-?sided`), detail: "sides", read: func(l *PartLine, m []string) (string, string) {
			if s := strings.ToLower(m[1]); s == "two" || s == "double" || s == "2" {
				return "", "how high its underside is, such as bottom:1.35"
			}
			l.drive().Bottom = hw.Known(hw.Dec(0))
			return "nothing on its underside", ""
		}},
		{like: like(`(top|bottom):([0-9]+(?:[.,][0-9]+)?)(?:mm)?`), detail: "room it needs", again: true,
			read: func(l *PartLine, m []string) (string, string) {
				into := &l.drive().Top
				if strings.EqualFold(m[1], "bottom") {
					into = &l.drive().Bottom
				}
				return m[2] + " mm " + strings.ToLower(m[1]), decInto(into, m[2])
			}},
		{like: like(`(read|write|r|w):?([0-9]{2,5})(?:mb/?s)?`), detail: "speed", again: true, read: func(l *PartLine,
			m []string) (string, string) {
			into, does := &l.drive().ReadMBs, "reads"
			if strings.HasPrefix(strings.ToLower(m[1]), "w") {
				into, does = &l.drive().WriteMBs, "writes"
			}
			return does + " " + m[2] + " MB/s", decInto(into, m[2])
		}},
		{like: like(`heat-?sink`), detail: "heat sink", when: func(l *PartLine, _ []string) bool { return l.Part.Drive != nil },
			read: func(l *PartLine, _ []string) (string, string) {
				l.drive().Heatsink = hw.Known(true)
				return "has a heat sink", ""
			}},
	}
}

// kindWord says outright what a part is.
func kindWord(l *PartLine, m []string) (string, string) {
	kind := hw.PartKind(strings.ToLower(m[1]))
	for _, k := range append(hw.PartKinds.Words(), "consumable", "tool") {
		if k == string(kind) {
			l.Part.Kind = kind
			return k, ""
		}
	}
	return "", "there is no such kind; memory, drive, battery, wireless, accessory, consumable or tool"
}

// m2Word reads an M.2 size, with what its code says of sides and keys.
func m2Word(l *PartLine, m []string) (string, string) {
	size, err := label.ParseM2(m[1])
	if err != nil {
		return "", err.Error()
	}
	d := l.drive()
	d.Length = hw.Known(size.Length)
	if size.Top.IsKnown() {
		d.Top, d.Bottom = size.Top, size.Bottom
	}
	words := fmt.Sprintf("%d × %d mm", size.Width, size.Length)
	if len(size.Keys) > 0 {
		d.Key = hw.Known(strings.Join(size.Keys, "+"))
		words += ", key " + d.Key.Or("")
	}
	return words, ""
}

func wholeInto(into *hw.Maybe[int], text string, least, most int) (wrong string) {
	n, err := strconv.Atoi(text)
	if err != nil || n < least || n > most {
		return fmt.Sprintf("%s is not from %d to %d", text, least, most)
	}
	*into = hw.Known(n)
	return ""
}

func decInto(into *hw.Maybe[hw.Dec], text string) (wrong string) {
	v, err := hw.ParseDec(strings.ReplaceAll(text, ",", "."))
	if err != nil {
		return err.Error()
	}
	*into = hw.Known(v)
	return ""
}
