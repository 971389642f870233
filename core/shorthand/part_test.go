package shorthand

import (
	"encoding/json"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestParsePart: a label, a price list's words or what a technician types become the part they mean.
func TestParsePart(t *testing.T) {
	for text, want := range map[string]string{
		"Corvane 16GB 2Rx8 PC4-3200AA-SE1-11 38.90 4pcs 3d": `{"id":"","kind":"memory","name":"Corvane 16 GB DDR4-3200 SO-DIMM","price_cents":3890,"lead_days":3,` +
			`"memory":{"type":"DDR4","form":"SO-DIMM","capacity_gb":16,"speed_mts":3200,"ranks":2,"voltage_v":1.2}} 4`,
		"2x8GB DDR4-2666 SODIMM €34,90 2x": `{"id":"","kind":"memory","name":"2 × 8 GB DDR4-2666 SO-DIMM","price_cents":3490,"count":2,` +
			`"memory":{"type":"DDR4","form":"SO-DIMM","capacity_gb":8,"speed_mts":2666,"voltage_v":1.2}} 2`,
		"Bexmoor 1 TB NVMe 2280 g4x4 one-sided 79,90 EUR": `{"id":"","kind":"drive","name":"Bexmoor 1 TB NVMe 2280 gen 4","price_cents":7990,` +
			`"drive":{"interface":"nvme","key":"M","length_mm":80,"pcie_gen":4,"lanes":4,"capacity_gb":1000,"bottom_mm":0}} 0`,
		"Bexmoor 500 GB SATA 2280-D2-B-M": `{"id":"","kind":"drive","name":"Bexmoor 500 GB SATA 2280","price_cents":0,` +
			`"drive":{"interface":"sata","key":"B+M","length_mm":80,"capacity_gb":500,"top_mm":1.35,"bottom_mm":1.35}} 0`,
		"1tb sata 2.5in 7mm hdd 64.90 low2": `{"id":"","kind":"drive","name":"1 TB SATA 2.5-inch spinning","price_cents":6490,` +
			`"drive":{"interface":"sata","form":"2.5in","capacity_gb":1000,"height_mm":7,"rotational":true}} 0`,
		"Wexcell QB-760 76 Wh 15.2V 4s": `{"id":"","kind":"battery","name":"Wexcell QB-760 76 Wh","price_cents":0,` +
			`"battery":{"part_number":"QB-760","design_wh":76,"nominal_v":15.2,"series":4}} 0`,
		"Hallam Wi-Fi 6 card 2230 A+E 2 antennas": `{"id":"","kind":"wireless","name":"Hallam card Wi-Fi 6 card 2230","price_cents":0,` +
			`"wireless":{"key":"A+E","length_mm":30,"interface":"pcie","standard":"wifi6","antennas":2}} 0`,
		`"2.5 inch cable for MO14" gives:bay-cable-mo14 12.00 1x`: `{"id":"","kind":"accessory","name":"2.5 inch cable for MO14","price_cents":1200,"provides":"bay-cable-mo14"} 1`,
		"thermal paste kind:consumable there":                     `{"id":"","kind":"consumable","name":"thermal paste","price_cents":0} 0`,
		"accessory bracket-x 6.50":                                `{"id":"","kind":"accessory","name":"bracket-x","price_cents":650,"provides":"bracket-x"} 0`,
		"Corvane 16GB DDR4-3200 SO-DIMM 79": `{"id":"","kind":"memory","name":"Corvane 16 GB DDR4-3200 SO-DIMM","price_cents":7900,` +
			`"memory":{"type":"DDR4","form":"SO-DIMM","capacity_gb":16,"speed_mts":3200,"voltage_v":1.2}} 0`,
		"8GB DDR4-2400 SO-DIMM pulled 3 pcs": `{"id":"","kind":"memory","name":"8 GB DDR4-2400 SO-DIMM pulled","price_cents":0,"source":"pulled",` +
			`"memory":{"type":"DDR4","form":"SO-DIMM","capacity_gb":8,"speed_mts":2400,"voltage_v":1.2}} 3`,
		"Corvane (16 GB), DDR3L 1600, SO-DIMM;": `{"id":"","kind":"memory","name":"Corvane 16 GB DDR3L-1600 SO-DIMM","price_cents":0,` +
			`"memory":{"type":"DDR3L","form":"SO-DIMM","capacity_gb":16,"speed_mts":1600,"voltage_v":1.35}} 0`,
	} {
		l := ParsePart(text, "EUR")
		doc, err := json.Marshal(l.Part)
		if err != nil {
			t.Fatal(err)
		}
		if got := string(doc) + " " + hw.DecOf(l.Pieces.Or(0)).String(); got != want || l.Faults() != nil {
			t.Errorf("%s\n%s, not\n%s\n%v", text, got, want, l.Faults())
		}
	}
	for text, says := range map[string]string{"16GB 38.90 USD": "column 6: USD is another currency",
		"16GB 1.234 EUR":    "two ways",
		"cable 14 79 there": "may be a price or a part of the name",
		"4pcs 5pcs":         "column 6: how many is said twice", "wifi9": "", `"a" b "c`: "a quote is opened",
		"kind:cheese":  "no such kind",
		"m2-2299 nvme": "cannot be read", `"name" nvm`: "did you mean nvme", strings.Repeat("x", 600): "more than 500"} {
		var said []string
		for _, f := range ParsePart(text, "EUR").Faults() {
			said = append(said, f.Error())
		}
		if got := strings.Join(said, "; "); !strings.Contains(got, says) {
			t.Errorf("%s: %q, not %q", text, got, says)
		}
	}
}

// FuzzParsePart: no line breaks it, each word has its place, and what was read can be written.
func FuzzParsePart(f *testing.F) {
	for _, line := range []string{"16GB 2Rx8 PC4-3200AA-SE1-11", "1 TB NVMe 2280 g4x4 €79,90", `"a" gives:b 4x`, "QB-760 76Wh 4s"} {
		f.Add(line)
	}
	f.Fuzz(func(t *testing.T, line string) {
		l := ParsePart(line, "EUR")
		size := len([]rune(line)) + 1
		for _, w := range l.Words {
			if w.Col < 1 || w.Col > size || w.Len < 0 || w.Col+w.Len > size+1 {
				t.Fatalf("%q: %+v", line, w)
			}
		}
		if _, err := json.Marshal(l.Part); err != nil {
			t.Fatal(err)
		}
	})
}
