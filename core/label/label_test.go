package label

import (
	"encoding/json"
	"errors"
	"os"
	"strings"
	"testing"

	"yembo/core/hw"
)

func TestLabels(t *testing.T) {
	raw, err := os.ReadFile("testdata/labels.txt")
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range strings.Split(string(raw), "\n") {
		text, want, ok := strings.Cut(line, " => ")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		got, err := Decode(text)
		if say, isError := strings.CutPrefix(want, "! "); isError {
			var parse *ParseError
			if !errors.As(err, &parse) || !strings.Contains(err.Error(), say) {
				t.Errorf("%s: %v; want …%s…", text, err, say)
			}
			continue
		}
		out, _ := json.Marshal(got)
		if err != nil || string(out) != want {
			t.Errorf("%s:\n%s %v\nwant\n%s", text, out, err, want)
		}
	}
	m, err := ParseMemory("DDR4 3200 MHz")
	if err != nil || len(m.Notes) != 1 || !strings.Contains(m.Notes[0], "3200 MT/s") {
		t.Errorf("MHz is read without a word: %v %v", m, err)
	}
}

// image makes an SPD image by the published layout, with its checksums right.
func image(size int, set map[int]byte) []byte {
	d := make([]byte, size)
	for at, b := range set {
		d[at] = b
	}
	seal := func(from, to, at int) {
		c := crc16(d[from:to])
		d[at], d[at+1] = byte(c), byte(c>>8)
	}
	switch size {
	case 256:
		seal(0, 126, 126)
	case 512:
		seal(0, 126, 126)
		seal(128, 254, 254)
	case 1024:
		seal(0, 510, 510)
	}
	return d
}

func put(set map[int]byte, at int, text string) map[int]byte {
	for i := range len(text) {
		set[at+i] = text[i]
	}
	return set
}

func spdCases() map[string][]byte {
	return map[string][]byte{
		// 4 Gbit chips × 8 wide, one rank: 4 GB; 1.35 V; MTB 1/8 ns, 10 × 0.125 = 1.25 ns.
		"DDR3L SO-DIMM 4 1R8 1600 CL11 0BADF00D CV3": image(256,
			put(map[int]byte{2: 0x0B, 3: 3, 4: 4, 6: 2, 7: 0x01, 8: 3, 9: 0x11, 10: 1, 11: 8, 12: 10, 16: 110,
				122: 0x0B, 123: 0xAD, 124: 0xF0, 125: 0x0D}, 128, "CV3")),
		// 1333: 12 × 0.125 = 1.5 ns, CAS 13.125 ns: 9 clocks.
		"DDR3 DIMM 8 2R8 1333 CL9 - CV3U": image(256,
			put(map[int]byte{2: 0x0B, 3: 2, 4: 4, 7: 0x09, 8: 3, 9: 0x11, 10: 1, 11: 8, 12: 12, 16: 105}, 128, "CV3U")),
		// 8 Gbit × 8, two ranks: 16 GB; 5 × 125 = 625 ps, CAS 13.75 ns: 22 clocks.
		"DDR4 SO-DIMM 16 2R8 3200 CL22 0000002A CV16D4": image(512,
			put(map[int]byte{2: 0x0C, 3: 3, 4: 5, 12: 0x09, 13: 3, 18: 5, 24: 110, 328: 0x2A}, 329, "CV16D4")),
		// 2933: 682 ps = 6 × 125 − 68; CAS 14.32 ns = 115 × 125 − 55.
		"DDR4 SO-DIMM 8 1R8 2933 CL21 - CV8D4": image(512,
			put(map[int]byte{2: 0x0C, 3: 3, 4: 5, 12: 0x01, 13: 3, 18: 6, 24: 115, 125: 188, 123: 201}, 329, "CV8D4")),
		// 16 Gbit × 8, two sub-channels of 32 bits, one rank: 16 GB; 416 ps, 16640 ps.
		"DDR5 SO-DIMM 16 1R8 4800 CL40 DEADBEEF CV5": image(1024,
			put(map[int]byte{2: 0x12, 3: 3, 4: 4, 6: 0x20, 234: 0, 235: 0x22, 20: 0xA0, 21: 0x01, 30: 0x00, 31: 0x41,
				517: 0xDE, 518: 0xAD, 519: 0xBE, 520: 0xEF}, 521, "CV5")),
		// 5600: 357 ps, 16428 ps: 46 clocks; 24 Gbit chips, two ranks: 48 GB.
		// 16000 ps at 357 ps is 45 clocks; only even latencies exist.
		"DDR5 SO-DIMM 16 1R8 5600 CL46 - CV5Y": image(1024,
			put(map[int]byte{2: 0x12, 3: 3, 4: 4, 6: 0x20, 235: 0x22, 20: 0x65, 21: 0x01, 30: 0x80, 31: 0x3E}, 521,
				"CV5Y")),
		"DDR5 DIMM 48 2R8 5600 CL46 - CV5X": image(1024,
			put(map[int]byte{2: 0x12, 3: 2, 4: 5, 6: 0x20, 234: 0x08, 235: 0x22, 20: 0x65, 21: 0x01, 30: 0x2C,
				31: 0x40}, 521, "CV5X")),
	}
}

func TestSPD(t *testing.T) {
	for want, data := range spdCases() {
		s, err := ReadSPD(data)
		if err != nil {
			t.Errorf("%s: %v", want, err)
			continue
		}
		serial := s.Serial
		if serial == "" {
			serial = "-"
		}
		got := strings.Join([]string{string(s.Type), string(s.Form), s.Capacity.String(),
			itoa(s.Ranks) + "R" + itoa(s.ChipWidth), itoa(s.SpeedMTs), "CL" + itoa(s.CAS), serial, s.PartNumber}, " ")
		if got != want || !s.ChecksumOK || !IsSPD(data) {
			t.Errorf("%s, checksum %v; want %s", got, s.ChecksumOK, want)
		}
		data[40] ^= 0xFF
		if s, err := ReadSPD(data); err != nil || s.ChecksumOK {
			t.Errorf("%s: a changed byte leaves the checksum right", want)
		}
		if _, err := ReadSPD(data[:100]); !errors.Is(err, ErrNotSPD) {
			t.Errorf("%s cut short: %v", want, err)
		}
	}
	if _, err := ReadSPD(make([]byte, 512)); !errors.Is(err, ErrNotSPD) {
		t.Errorf("zeroes are read: %v", err)
	}
	if volts("DDR3L") != hw.Dec(1_350_000) {
		t.Error("DDR3L is 1.35 V")
	}
}

func itoa(n int) string { out, _ := json.Marshal(n); return string(out) }

func FuzzDecode(f *testing.F) {
	raw, err := os.ReadFile("testdata/labels.txt")
	if err != nil {
		f.Fatal(err)
	}
	for _, line := range strings.Split(string(raw), "\n") {
		text, _, _ := strings.Cut(line, " => ")
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, err := Decode(text)
		if err != nil {
			if err.Error() == "" {
				t.Error("an error without words")
			}
			return
		}
		out, err := json.Marshal(got)
		if err != nil || !json.Valid(out) {
			t.Errorf("%q prints %s %v", text, out, err)
		}
	})
}

func FuzzSPD(f *testing.F) {
	for _, data := range spdCases() {
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		if s, err := ReadSPD(data); err == nil && (s.Capacity <= 0 || s.SpeedMTs <= 0 || s.Ranks < 1) {
			t.Errorf("an SPD image without sense is read: %+v", s)
		}
	})
}

func BenchmarkDecode(b *testing.B) {
	for b.Loop() {
		if _, err := Decode("16GB 2Rx8 PC4-3200AA-SE1-11"); err != nil {
			b.Fatal(err)
		}
	}
}

// TestSPDAgainstTool compares with what decode-dimms prints of the same images.
func TestSPDAgainstTool(t *testing.T) {
	for _, name := range []string{"ddr3l-8", "ddr4-16", "ddr4-8"} {
		image, err := os.ReadFile("testdata/spd/" + name + ".bin")
		if err != nil {
			t.Fatal(err)
		}
		printed, err := os.ReadFile("testdata/spd/" + name + ".txt")
		if err != nil {
			t.Fatal(err)
		}
		s, err := ReadSPD(image)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		said := map[string]string{}
		for _, line := range strings.Split(string(printed), "\n") {
			if len(line) > 49 {
				said[strings.TrimSpace(line[:49])] = strings.TrimSpace(line[49:])
			}
		}
		for field, want := range map[string]string{"Fundamental Memory type": string(s.Type[:4]) + " SDRAM",
			"Module Type": string(s.Form), "Size": itoa(int(s.Capacity/hw.DecOf(1))*1024) + " MB",
			"Ranks": itoa(s.Ranks), "SDRAM Device Width": itoa(s.ChipWidth) + " bits", "Part Number": s.PartNumber} {
			if said[field] != want {
				t.Errorf("%s: %s is %q, the tool prints %q", name, field, want, said[field])
			}
		}
		if !s.ChecksumOK {
			t.Errorf("%s: the checksum that the tool calls right is wrong", name)
		}
		if !strings.HasPrefix(said["Maximum module speed"], itoa(s.SpeedMTs)+" MT/s") {
			t.Errorf("%s: %d MT/s; the tool prints %s", name, s.SpeedMTs, said["Maximum module speed"])
		}
		if serial := said["Assembly Serial Number"]; strings.Trim(serial, "0x") != strings.TrimLeft(s.Serial, "0") {
			t.Errorf("%s: serial %s; the tool prints %s", name, s.Serial, serial)
		}
	}
}
