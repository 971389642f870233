package reading

import (
	"regexp"
	"strings"

	"yembo/core/hw"
)

var pciHead = regexp.MustCompile(`(?m)^(?:[0-9a-fA-F]{4,8}:)?[0-9a-fA-F]{2}:[0-9a-fA-F]{2}\.[0-7] \S`)

// pciClasses are the classes that are read, by word and by number.
var pciClasses = []struct{ word, number, class string }{
	{"Non-Volatile memory controller", "0108", "nvme"}, {"SATA controller", "0106", "sata"},
	{"Network controller", "0280", "network"}, {"Ethernet controller", "0200", "network"},
}

// lspci reads the text of lspci -vv: endpoints with their PCI Express link.
func (o *Observed) lspci(text []byte) error {
	var now *Link
	endpoint, express := false, false
	keep := func() {
		// An endpoint with a link; where its capabilities could not be read, that it has
		// one is all that can be said.
		if now != nil && endpoint {
			o.Links = append(o.Links, *now)
		}
		now, endpoint, express = nil, false, false
	}
	denied := 0
	eachLine(text, func(line string) {
		if len(line) == 0 {
			return
		}
		if line[0] != '\t' && line[0] != ' ' {
			keep()
			if pciHead.MatchString(line) {
				now = pciDevice(line)
			}
			return
		}
		if now == nil {
			return
		}
		body := strings.TrimSpace(line)
		switch {
		case strings.HasPrefix(body, "Capabilities: <access denied>"):
			// Bus 00 belongs to the chipset itself: its controllers hang on no link.
			endpoint = !strings.HasPrefix(now.Address, "00:")
			denied++
		case strings.HasPrefix(body, "Capabilities:"):
			if i := strings.Index(body, "] Express "); i >= 0 {
				express = true
				endpoint = strings.Contains(body[i:], "Endpoint") && !strings.Contains(body[i:], "Root Complex")
			}
		case express && strings.HasPrefix(body, "LnkCap:"):
			now.CapGen, now.CapLanes = linkOf(body)
		case express && strings.HasPrefix(body, "LnkSta:"):
			now.NowGen, now.NowLanes = linkOf(body)
		}
	})
	keep()
	if denied > 0 {
		o.note("lspci was not allowed to read the links of %d devices: run it with the rights to do so", denied)
	}
	return nil
}

// pciDevice reads the head of a device, nil for one of a class that is not read.
func pciDevice(line string) *Link {
	address, rest, _ := strings.Cut(line, " ")
	address = strings.Clone(strings.ToLower(address))
	if strings.Count(address, ":") == 2 {
		address = strings.TrimPrefix(address, "0000:")
	}
	for _, c := range pciClasses {
		// Class 0108: ... with -n, Non-Volatile memory controller [0108]: ... with -nn.
		if strings.HasPrefix(rest, c.word+":") || strings.HasPrefix(rest, c.word+" [") ||
			strings.HasPrefix(rest, c.number+":") || strings.HasPrefix(rest, "Class "+c.number+":") {
			return &Link{Address: address, Class: c.class}
		}
	}
	return nil
}

var (
	linkSpeed = regexp.MustCompile(`Speed ([0-9.]+)GT/s`)
	linkWidth = regexp.MustCompile(`Width x([0-9]+)`)
)

// linkOf reads generation and lanes of a line such as "LnkCap: Port #0, Speed 16GT/s,
// Width x4". What is not told or makes no sense is left out.
func linkOf(line string) (gen, lanes hw.Maybe[int]) {
	if m := linkSpeed.FindStringSubmatch(line); m != nil {
		if n, ok := map[string]int{"2.5": 1, "5": 2, "5.0": 2, "8": 3, "8.0": 3, "16": 4, "16.0": 4, "32": 5, "32.0": 5,
			"64": 6, "64.0": 6}[m[1]]; ok {
			gen = hw.Known(n)
		}
	}
	if m := linkWidth.FindStringSubmatch(line); m != nil {
		if n, ok := leadingInt(m[1]); ok && n <= 32 {
			lanes = positive(n)
		}
	}
	return gen, lanes
}
