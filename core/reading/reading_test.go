package reading

import (
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf16"
)

// fixture reads a report by its name; spd/… are the images of core/label.
func fixture(t testing.TB, name string) []byte {
	path := filepath.Join("testdata/in", name)
	if strings.HasPrefix(name, "spd/") {
		path = filepath.Join("../label/testdata", name)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func document(t testing.TB, reports ...[]byte) string {
	var all []*Observed
	for _, data := range reports {
		o, err := Read(data)
		if err != nil {
			t.Fatal(err)
		}
		all = append(all, o)
	}
	out, err := json.Marshal(Merge(all))
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}

// wide is a text as UTF-16 with its mark.
func wide(text []byte, big bool) []byte {
	out := []byte{0xff, 0xfe}
	for _, u := range append([]uint16(nil), utf16.Encode([]rune(string(text)))...) {
		out = append(out, byte(u), byte(u>>8))
	}
	if big {
		for i := 0; i < len(out); i += 2 {
			out[i], out[i+1] = out[i+1], out[i]
		}
	}
	return out
}

// TestReports reads every report of testdata, alone and together, in every encoding.
func TestReports(t *testing.T) {
	raw, err := os.ReadFile("testdata/want.txt")
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range strings.Split(strings.TrimSpace(string(raw)), "\n") {
		names, want, _ := strings.Cut(line, " => ")
		var plainly, unix, little, big [][]byte
		image := false
		for _, name := range strings.Fields(names) {
			data := fixture(t, name)
			image = image || strings.HasPrefix(name, "spd/")
			plainly, unix = append(plainly, data), append(unix, bytes.ReplaceAll(data, []byte("\n"), []byte("\r\n")))
			little, big = append(little, wide(data, false)), append(big, wide(data, true))
		}
		if got := document(t, plainly...); got != want {
			t.Errorf("%s:\n%s\nwant\n%s", names, got, want)
		}
		if image {
			continue
		}
		for how, reports := range map[string][][]byte{"CRLF": unix, "UTF-16 little": little, "UTF-16 big": big} {
			if got := document(t, reports...); got != want {
				t.Errorf("%s as %s:\n%s", names, how, got)
			}
		}
	}
}

// dmi is a dmidecode text with one array of system memory and the devices given, each
// as "Field=value" separated by semicolons.
func dmi(devices ...string) string {
	b := "# dmidecode 3.4\n\nHandle 0x0001, DMI type 1, 27 bytes\nSystem Information\n\tManufacturer: To Be Filled " +
		"By O.E.M.\n\tProduct Name: Default string\n\tSerial Number: 0000000\n\nHandle 0x0002, DMI type 16, 23 " +
		"bytes\nPhysical Memory Array\n\tUse: System Memory\n\tMaximum Capacity: 32 GB\n"
	for _, d := range devices {
		b += "\nHandle 0x0003, DMI type 17, 40 bytes\nMemory Device\n\tArray Handle: 0x0002\n"
		for _, f := range strings.Split(d, ";") {
			b += "\t" + strings.Replace(f, "=", ": ", 1) + "\n"
		}
	}
	return b
}

// TestDevices holds the rules for soldered and socketed memory, types and placeholders.
func TestDevices(t *testing.T) {
	for _, c := range []struct{ in, want string }{
		{"Size=8 GB;Form Factor=Row Of Chips;Type=DDR4",
			`"sockets":0,"devices":[{"type":"DDR4","capacity_gb":8,"soldered":true}]`},
		{"Size=8192 MB;Form Factor=Chip;Type=DDR4",
			`"sockets":0,"devices":[{"type":"DDR4","capacity_gb":8,"soldered":true}]`},
		{"Size=8 GB;Form Factor=Die;Type=DDR5",
			`"sockets":0,"devices":[{"type":"DDR5","capacity_gb":8,"soldered":true}]`},
		{"Size=8 GB;Form Factor=SODIMM;Type=LPDDR4X",
			`"sockets":0,"devices":[{"type":"LPDDR4X","capacity_gb":8,"soldered":true}]`},
		{"Size=32 GB;Form Factor=CAMM;Type=LPDDR5",
			`"sockets":1,"devices":[{"form":"LPCAMM2","type":"LPDDR5","capacity_gb":32,"soldered":false}]`},
		{"Size=32 GB;Form Factor=CAMM;Type=DDR5",
			`"sockets":1,"devices":[{"form":"CAMM2","type":"DDR5","capacity_gb":32,"soldered":false}]`},
		{"Size=8 GB;Form Factor=Unknown;Type=DDR4",
			`"sockets":1,"devices":[{"type":"DDR4","capacity_gb":8}]`},
		{"Size=8 GB;Form Factor=SODIMM;Type=DDR3;Configured Voltage=1.35 V",
			`"devices":[{"form":"SO-DIMM","type":"DDR3L","capacity_gb":8,"soldered":false,"voltage_v":1.35}]`},
		{"Size=8 GB;Form Factor=SODIMM;Type=DDR3;Configured Voltage=1.5 V",
			`"type":"DDR3",`},
		{"Size=8 GB;Form Factor=DIMM;Type=DDR4;Speed=2667 MT/s",
			`"rated_mts":2667`},
		{"Size=8 GB;Type=DDR4;Speed=Unknown;Configured Clock Speed=2400 MT/s",
			`{"type":"DDR4","capacity_gb":8,"running_mts":2400}`},
		{"Size=8 GB;Serial Number=00000000;Part Number=Not Specified;Rank=None",
			`"devices":[{"capacity_gb":8}]`},
		{"Size=8 GB;Part Number=<b>CV</b>;Locator=Unknown;Bank Locator=BANK 0",
			`"devices":[{"capacity_gb":8,"part_number":"\u003cb\u003eCV\u003c/b\u003e"}]`},
		{"Size=Unknown;Form Factor=SODIMM;Type=DDR4",
			`"devices":[{"form":"SO-DIMM","type":"DDR4","soldered":false}]`},
	} {
		if got := document(t, []byte(dmi(c.in))); !strings.Contains(got, c.want) || strings.Contains(got, `"system"`) {
			t.Errorf("%s:\n%s\nwant %s", c.in, got, c.want)
		}
	}
	two := dmi("Size=8 GB;Locator=A", "Size=4 GB;Locator=A")
	if got := document(t, []byte(two)); !strings.Contains(got, `"sockets":2`) ||
		strings.Count(got, `"locator":"A"`) != 2 {
		t.Errorf("two devices of one name are %s", got)
	}
}

// TestQuietReport: a report without handles tells the same, but for what only a handle
// tells.
func TestQuietReport(t *testing.T) {
	var quiet []string
	for _, line := range strings.Split(string(fixture(t, "dmidecode.txt")), "\n") {
		switch {
		case strings.HasPrefix(line, "Handle") || strings.HasPrefix(line, "#") || strings.HasPrefix(line, "SMBIOS"):
		default:
			quiet = append(quiet, line)
		}
	}
	if got, want := document(t, []byte(strings.Join(quiet, "\n"))),
		document(t, fixture(t, "dmidecode.txt")); got != want {
		t.Errorf("quietly it is %s\nwant %s", got, want)
	}
}

// TestSecondReports reads variants that the fixtures do not have.
func TestSecondReports(t *testing.T) {
	nvme := "10000:e1:00.0 Non-Volatile memory controller: Vendor Device 0001 (prog-if 02 [NVM Express])\n"
	for _, c := range [][2]string{
		{nvme + "\tCapabilities: <access denied>\n", `"links":[{"address":"10000:e1:00.0","class":"nvme"}]`},
		{"0000:01:00.0 0108: 1234:0001\n\tCapabilities: [70] Express Endpoint\n\t\tLnkCap:\tSpeed 99GT/s, Width x4\n",
			`"links":[{"address":"01:00.0","class":"nvme","cap_lanes":4}]`},
		{"00:17.0 SATA controller: Vendor Device 0001\n\tCapabilities: <access denied>\n",
			`{"format":"yembo.observed/1","from":["lspci"]}`},
		{`{"smartctl":{"exit_status":2,"messages":[{"string":"no permission"}]},"device":{"name":"/dev/sda"}}`,
			`{"format":"yembo.observed/1","from":["smartctl"]}`},
		{`{"smartctl":{},"device":{"protocol":"ATA"},"model_name":"B",` +
			`"ata_smart_attributes":{"table":[{"id":233,"name":"Unknown_SSD_Attribute","value":70}]}}`, `"wear_percent":30`},
		{`{"critical_warning":0,"percentage_used":2,"temperature":300}`,
			`"drives":[{"interface":"nvme","wear_percent":2,"temperature_c":27,"healthy":true}]`},
		{`{"sn":"A","mn":"B1"}{"sn":"B","mn":"B1"}{"critical_warning":0,"percent_used":2,"temperature":300}`,
			`{"interface":"nvme","wear_percent":2,"temperature_c":27,"healthy":true}]`},
	} {
		if got := document(t, []byte(c[0])); !strings.Contains(got, c[1]) {
			t.Errorf("%s\nis %s\nwant %s", c[0], got, c[1])
		}
	}
}

// TestContradictions: the first report stands, what others say is kept, once.
func TestContradictions(t *testing.T) {
	first := dmi("Size=8 GB;Locator=A;Speed=3200 MT/s")
	got := document(
		t,
		[]byte(first),
		[]byte(
			`{"id":"x","class":"system","children":[{"id":"memory","class":"memory","capacity":68719476736,`+
				`"children":[{"id":"bank","class":"memory","slot":"A","size":17179869184,"clock":3200000000}]}]}`,
		),
		[]byte(`{"MaxCapacityEx":67108864,"MemoryDevices":1}`),
	)
	for _, want := range []string{`"max_gb":32`, `"capacity_gb":8`,
		`{"path":"/memory/max_gb","values":[32,64],"from":["dmidecode","lshw"]}`,
		`{"path":"/memory/devices/0/capacity_gb","values":[8,16],"from":["dmidecode","lshw"]}`} {
		if !strings.Contains(got, want) {
			t.Errorf("%s is not in\n%s", want, got)
		}
	}
	if strings.Contains(got, "rated_mts\",") {
		t.Errorf("what agrees is called a contradiction: %s", got)
	}
}

// TestRefusals: what cannot be taken is refused with its place, at any length of cut.
func TestRefusals(t *testing.T) {
	deep := strings.Repeat(`{"class":"a","id":`, 200_000)
	for in, want := range map[string]string{
		"":                       "empty",
		"\xff\xfe":               "empty",
		"a letter to the editor": "not a supported report",
		"{}":                     "not a supported report",
		"<html></html>":          "not a supported report",
		"# dmidecode 3.4\n/dev/mem: Permission denied\n": "rights",
		"{\n\"smartctl\": {},\n \"x\": ]":                "line 3, column",
		`{"smartctl": {}, "model_name"`:                  "cut off",
		"<BatteryReport><Batteries>":                     "line 1",
		"<BatteryReport>&lol;</BatteryReport>":           "entity",
		deep:                                             "JSON",
	} {
		_, err := Read([]byte(in))
		var refused *Refused
		if !errors.As(err, &refused) || !strings.Contains(err.Error(), want) {
			t.Errorf("%.40q: %v; want …%s…", in, err, want)
		}
	}
	if _, err := Read(make([]byte, MaxReport+1)); err == nil {
		t.Error("a report past the limit is read")
	}
	spd := fixture(t, "spd/ddr4-16.bin")
	if _, err := Read(spd[:300]); err == nil || !strings.Contains(err.Error(), "SPD") {
		t.Errorf("half an SPD image: %v", err)
	}
	spd[40] ^= 0xff
	if o, err := Read(spd); err != nil || len(o.Notes) != 1 || o.Memory.Devices[0].ChecksumOK.Or(true) {
		t.Errorf("a wrong checksum: %v %v", o, err)
	}
	// Text reports are read as far as they go.
	whole := fixture(t, "dmidecode.txt")
	for cut := 400; cut < len(whole); cut += 97 {
		if _, err := Read(whole[:cut]); err != nil {
			t.Errorf("dmidecode cut off at %d: %v", cut, err)
		}
	}
}

// FuzzReaders gives mutated reports to the reader of each kind, recognised or not.
func FuzzReaders(f *testing.F) {
	readers := []reader{(*Observed).dmidecode, (*Observed).lspci, (*Observed).lshw, (*Observed).smartctl,
		(*Observed).nvme, (*Observed).upower, (*Observed).powerSupply, (*Observed).batteryReport, (*Observed).cim}
	files, err := filepath.Glob("testdata/in/*")
	if err != nil || len(files) == 0 {
		f.Fatal("no reports", err)
	}
	for _, file := range files {
		for kind := range readers {
			f.Add(byte(kind), fixture(f, filepath.Base(file)))
		}
	}
	f.Add(byte(255), fixture(f, "spd/ddr4-16.bin"))
	f.Fuzz(func(t *testing.T, kind byte, data []byte) {
		one := func() (*Observed, error) {
			if int(kind) >= len(readers) {
				return Read(data)
			}
			o := &Observed{Format: FormatObserved, From: []string{"dmidecode"}}
			return o, readers[kind](o, data)
		}
		o, err := one()
		if err != nil {
			return
		}
		again, err := one()
		if err != nil {
			t.Fatalf("read once, then refused: %v", err)
		}
		a, errA := json.Marshal(Merge([]*Observed{o}))
		b, errB := json.Marshal(Merge([]*Observed{again}))
		if errA != nil || errB != nil || !bytes.Equal(a, b) {
			t.Fatalf("%v %v\n%s\n%s", errA, errB, a, b)
		}
		for _, d := range o.Batteries {
			if w, ok := d.Design.Get(); ok && w <= 0 {
				t.Errorf("a pack of %v Wh", w)
			}
		}
	})
}

// BenchmarkText reads text reports made long: MB/s, and bytes allocated against 3 × the
// input.
func BenchmarkText(b *testing.B) {
	for _, name := range []string{"dmidecode.txt", "lspci.txt", "upower.txt", "power-supply-energy.txt",
		"power-supply-charge.txt"} {
		data := bytes.Repeat(fixture(b, name), 4<<20/len(fixture(b, name)))
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(data)))
			b.ReportAllocs()
			for b.Loop() {
				o, err := Read(data)
				if err != nil {
					b.Fatal(err)
				}
				_ = o
			}
		})
	}
}
