package label

import (
	"fmt"
	"testing"

	"yembo/core/hw"
)

// TestCRC holds the published check value of the polynomial: "123456789" gives 31C3.
func TestCRC(t *testing.T) {
	if got := crc16([]byte("123456789")); got != 0x31C3 {
		t.Errorf("%04X", got)
	}
}

// TestRates: every standard rate is read as it is written on a label, as a bandwidth, and as
// the tools round it; what lies further off than 1 % is no standard rate (docs/rules.md, Memory).
func TestRates(t *testing.T) {
	for kind, rates := range map[string][]int{
		"DDR3": {800, 1066, 1333, 1600, 1866, 2133},
		"DDR4": {800, 1066, 1333, 1600, 1866, 2133, 2400, 2666, 2933, 3200},
		"DDR5": {4000, 4400, 4800, 5200, 5600, 6000, 6400},
	} {
		generation := "PC" + kind[3:]
		for _, r := range rates {
			texts := []string{fmt.Sprintf("%s-%d", kind, r), fmt.Sprintf("%s %d MHz", kind, r)}
			if kind == "DDR3" || r*8 >= bandwidthFrom {
				texts = append(texts, fmt.Sprintf("%s-%d", generation, r*8/100*100))
			}
			if kind != "DDR3" {
				texts = append(texts, fmt.Sprintf("%s-%d", generation, r))
			}
			for _, text := range texts {
				if m, err := ParseMemory(text); err != nil || m.SpeedMTs.Or(0) != r || string(m.Type) != kind {
					t.Errorf("%s: %+v %v", text, m, err)
				}
			}
			if Snap(r+r/100) != r || Snap(r-r/100) != r {
				t.Errorf("%d is not within 1 %% of itself", r)
			}
		}
	}
	for figure, want := range map[int]int{2667: 2666, 2934: 2933, 1867: 1866, 2134: 2133, 1067: 1066, 1334: 1333,
		5601: 5600, 3000: 3000, 2300: 2300, 3232: 3200, 3233: 3233, 3168: 3200, 3167: 3167, 7200: 7200, 0: 0} {
		if got := Snap(figure); got != want {
			t.Errorf("%d is %d, want %d", figure, got, want)
		}
	}
}

// TestSPDFields changes one field after the other of a sound image.
func TestSPDFields(t *testing.T) {
	base := map[string]map[int]byte{
		"3": {2: 0x0B, 3: 3, 4: 4, 7: 0x01, 8: 3, 9: 0x11, 10: 1, 11: 8, 12: 10, 16: 110},
		"4": {2: 0x0C, 3: 3, 4: 5, 12: 0x09, 13: 3, 18: 5, 24: 110},
		"5": {2: 0x12, 3: 3, 4: 4, 6: 0x20, 235: 0x22, 20: 0xA0, 21: 0x01, 31: 0x41},
	}
	size := map[string]int{"3": 256, "4": 512, "5": 1024}
	for _, c := range []struct {
		ddr  string
		at   int
		b    byte
		want string
	}{
		{"3", 2, 0x0B, "DDR3 SO-DIMM 4 1R8 1600 CL11 1.5 false"},
		{"3", 6, 2, "DDR3L SO-DIMM 4 1R8 1600 CL11 1.35 false"},
		{"3", 3, 1, "DDR3 RDIMM 4 1R8 1600 CL11 1.5 true"}, {"3", 3, 2, "DDR3 DIMM 4 1R8 1600 CL11 1.5 false"},
		{"3", 3, 8, "DDR3 SO-DIMM 4 1R8 1600 CL11 1.5 true"},
		{"3", 3, 9, "DDR3 SO-DIMM 4 1R8 1600 CL11 1.5 true"}, {"3", 3, 10, "DDR3 SO-DIMM 4 1R8 1600 CL11 1.5 true"},
		{"3", 3, 11, "DDR3  4 1R8 1600 CL11 1.5 false"},
		{"3", 4, 5, "DDR3 SO-DIMM 8 1R8 1600 CL11 1.5 false"}, {"3", 4, 0, "DDR3 SO-DIMM 0.25 1R8 1600 CL11 1.5 false"},
		{"3", 7, 0x02, "DDR3 SO-DIMM 2 1R16 1600 CL11 1.5 false"},
		{"3", 7, 0x00, "DDR3 SO-DIMM 8 1R4 1600 CL11 1.5 false"},
		{"3", 7, 0x19, "DDR3 SO-DIMM 16 4R8 1600 CL11 1.5 false"},
		{"3", 8, 0x0B, "DDR3 SO-DIMM 4 1R8 1600 CL11 1.5 true"},
		{"3", 8, 0x02, "DDR3 SO-DIMM 2 1R8 1600 CL11 1.5 false"},
		{"3", 12, 20, "DDR3 SO-DIMM 4 1R8 800 CL6 1.5 false"},
		{"3", 34, 0xB0, "DDR3 SO-DIMM 4 1R8 1709 CL12 1.5 false"},
		{"3", 35, 0x83, "DDR3 SO-DIMM 4 1R8 1600 CL11 1.5 false"},
		{"3", 11, 0, "! no time base"}, {"3", 12, 0, "! a clock period of 0 ps"},
		{"3", 8, 0, "DDR3 SO-DIMM 0.5 1R8 1600 CL11 1.5 false"},
		{"3", 7, 0x07, "! its organisation makes no sense"},

		{"4", 2, 0x0C, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 false"},
		{"4", 3, 1, "DDR4 RDIMM 16 2R8 3200 CL22 1.2 true"}, {"4", 3, 8, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 true"},
		{"4", 3, 9, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 true"}, {"4", 3, 10, "DDR4  16 2R8 3200 CL22 1.2 false"},
		{"4", 4, 0, "DDR4 SO-DIMM 0.5 2R8 3200 CL22 1.2 false"}, {"4", 4, 1, "DDR4 SO-DIMM 1 2R8 3200 CL22 1.2 false"},
		{"4", 4, 2, "DDR4 SO-DIMM 2 2R8 3200 CL22 1.2 false"},
		{"4", 4, 3, "DDR4 SO-DIMM 4 2R8 3200 CL22 1.2 false"}, {"4", 4, 4, "DDR4 SO-DIMM 8 2R8 3200 CL22 1.2 false"},
		{"4", 4, 6, "DDR4 SO-DIMM 32 2R8 3200 CL22 1.2 false"},
		{"4", 4, 7, "DDR4 SO-DIMM 64 2R8 3200 CL22 1.2 false"}, {"4", 4, 8, "DDR4 SO-DIMM 24 2R8 3200 CL22 1.2 false"},
		{"4", 4, 9, "DDR4 SO-DIMM 48 2R8 3200 CL22 1.2 false"}, {"4", 4, 10, "! its organisation makes no sense"},
		{"4", 6, 0xB2, "DDR4 SO-DIMM 64 8R8 3200 CL22 1.2 false"},
		{"4", 6, 0xB1, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 false"},
		{"4", 6, 0x32, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 false"},
		{"4", 12, 0x00, "DDR4 SO-DIMM 16 1R4 3200 CL22 1.2 false"},
		{"4", 12, 0x02, "DDR4 SO-DIMM 4 1R16 3200 CL22 1.2 false"},
		{"4", 13, 0x0B, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 true"},
		{"4", 125, 0x7F, "DDR4 SO-DIMM 16 2R8 2666 CL19 1.2 false"},
		{"4", 123, 0x9C, "DDR4 SO-DIMM 16 2R8 3200 CL22 1.2 false"},
		{"4", 24, 100, "DDR4 SO-DIMM 16 2R8 3200 CL20 1.2 false"},

		{"5", 2, 0x12, "DDR5 SO-DIMM 16 1R8 4800 CL40 1.1 false"},
		{"5", 3, 1, "DDR5 RDIMM 16 1R8 4800 CL40 1.1 false"}, {"5", 3, 4, "DDR5 RDIMM 16 1R8 4800 CL40 1.1 false"},
		{"5", 3, 7, "DDR5 RDIMM 16 1R8 4800 CL40 1.1 false"}, {"5", 3, 2, "DDR5 DIMM 16 1R8 4800 CL40 1.1 false"},
		{"5", 3, 5, "DDR5 DIMM 16 1R8 4800 CL40 1.1 false"}, {"5", 3, 6, "DDR5 SO-DIMM 16 1R8 4800 CL40 1.1 false"},
		{"5", 3, 8, "DDR5 CAMM2 16 1R8 4800 CL40 1.1 false"}, {"5", 3, 9, "DDR5  16 1R8 4800 CL40 1.1 false"},
		{"5", 4, 0, "! its organisation makes no sense"}, {"5", 4, 1, "DDR5 SO-DIMM 4 1R8 4800 CL40 1.1 false"},
		{"5", 4, 2, "DDR5 SO-DIMM 8 1R8 4800 CL40 1.1 false"},
		{"5", 4, 3, "DDR5 SO-DIMM 12 1R8 4800 CL40 1.1 false"},
		{"5", 4, 5, "DDR5 SO-DIMM 24 1R8 4800 CL40 1.1 false"}, {"5", 4, 6, "DDR5 SO-DIMM 32 1R8 4800 CL40 1.1 false"},
		{"5", 4, 7, "DDR5 SO-DIMM 48 1R8 4800 CL40 1.1 false"},
		{"5", 4, 8, "DDR5 SO-DIMM 64 1R8 4800 CL40 1.1 false"}, {"5", 4, 9, "! its organisation makes no sense"},
		{"5", 4, 0x24, "DDR5 SO-DIMM 16 1R8 4800 CL40 1.1 false"},
		{"5", 4, 0x44, "DDR5 SO-DIMM 32 1R8 4800 CL40 1.1 false"},
		{"5", 4, 0x64, "DDR5 SO-DIMM 64 1R8 4800 CL40 1.1 false"},
		{"5", 4, 0x84, "DDR5 SO-DIMM 128 1R8 4800 CL40 1.1 false"},
		{"5", 4, 0xA4, "DDR5 SO-DIMM 256 1R8 4800 CL40 1.1 false"},
		{"5", 6, 0x40, "DDR5 SO-DIMM 8 1R16 4800 CL40 1.1 false"},
		{"5", 234, 0x08, "DDR5 SO-DIMM 32 2R8 4800 CL40 1.1 false"},
		{"5", 235, 0x2A, "DDR5 SO-DIMM 16 1R8 4800 CL40 1.1 true"},
		{"5", 235, 0x02, "DDR5 SO-DIMM 8 1R8 4800 CL40 1.1 false"},
	} {
		set := map[int]byte{}
		for at, b := range base[c.ddr] {
			set[at] = b
		}
		set[c.at] = c.b
		s, err := ReadSPD(image(size[c.ddr], set))
		got := ""
		if err != nil {
			got = "! " + err.Error()[len(ErrNotSPD.Error())+2:]
			if len(got) > len(c.want) {
				got = got[:len(c.want)]
			}
		} else {
			got = fmt.Sprintf("%s %s %s %dR%d %d CL%d %s %v", s.Type, s.Form, s.Capacity, s.Ranks, s.ChipWidth,
				s.SpeedMTs, s.CAS, s.Voltage, s.ECC)
		}
		if got != c.want {
			t.Errorf("DDR%s with byte %d %#x: %s, want %s", c.ddr, c.at, c.b, got, c.want)
		}
	}
	// Older images of DDR3 leave the serial and part number out of the checksum.
	short := image(256, map[int]byte{0: 0x92, 2: 0x0B, 3: 3, 4: 4, 7: 0x01, 8: 3, 9: 0x11, 10: 1, 11: 8, 12: 10,
		16: 110})
	sum := crc16(short[:117])
	short[126], short[127], short[122] = byte(sum), byte(sum>>8), 7
	if s, err := ReadSPD(short); err != nil || !s.ChecksumOK || s.Serial != "07000000" || s.Capacity != hw.DecOf(4) {
		t.Errorf("%+v %v", s, err)
	}
}
