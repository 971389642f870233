package label

import (
	"errors"
	"fmt"
	"strings"

	"yembo/core/hw"
)

// SPD is a module's own description, as JEDEC lays it out.
type SPD struct {
	Type       hw.MemoryType // DDR3, DDR3L, DDR4, DDR5
	Form       hw.ModuleForm // "" when the layout names another one than we plan with
	Capacity   hw.Dec        // GB
	Ranks      int
	ChipWidth  int
	SpeedMTs   int // snapped to the standard rates
	CAS        int
	Voltage    hw.Dec
	ECC        bool
	Serial     string // eight upper-case hex digits, "" when all zero
	PartNumber string
	ChecksumOK bool
}

// ErrNotSPD is returned for bytes that are no SPD image of a known generation.
var ErrNotSPD = errors.New("not the description (SPD) of a DDR3, DDR4 or DDR5 module")

// IsSPD reports whether bytes look like an SPD image.
func IsSPD(data []byte) bool {
	if len(data) < 3 {
		return false
	}
	switch data[2] {
	case 0x0B:
		return len(data) == 256 || len(data) == 128
	case 0x0C:
		return len(data) == 512
	case 0x12:
		return len(data) == 1024
	}
	return false
}

// ReadSPD reads an SPD image: DDR3 256 bytes, DDR4 512, DDR5 1024. A wrong checksum
// is told in ChecksumOK, not refused.
func ReadSPD(data []byte) (*SPD, error) {
	switch {
	case len(data) >= 3 && data[2] == 0x0B && len(data) == 256:
		return readDDR3(data)
	case len(data) >= 3 && data[2] == 0x0C && len(data) == 512:
		return readDDR4(data)
	case len(data) >= 3 && data[2] == 0x12 && len(data) == 1024:
		return readDDR5(data)
	case len(data) >= 3 && (data[2] == 0x0B || data[2] == 0x0C || data[2] == 0x12):
		return nil, fmt.Errorf("%w: it has %d bytes, cut short or too long", ErrNotSPD, len(data))
	}
	return nil, ErrNotSPD
}

// crc16 is the checksum of SPD images: polynomial 1021, start 0.
func crc16(data []byte) uint16 {
	var crc uint16
	for _, b := range data {
		crc ^= uint16(b) << 8
		for range 8 {
			if crc&0x8000 != 0 {
				crc = crc<<1 ^ 0x1021
			} else {
				crc <<= 1
			}
		}
	}
	return crc
}

func stored(data []byte, at int) uint16 { return uint16(data[at]) | uint16(data[at+1])<<8 }

// capacity is density × (bus ÷ chip width) × ranks, in GB; density in Mbit.
func capacity(densityMb, bus, width, ranks int) (hw.Dec, error) {
	if densityMb == 0 || width == 0 || bus < width || ranks < 1 {
		return 0, fmt.Errorf("%w: its organisation makes no sense", ErrNotSPD)
	}
	mb := densityMb / 8 * (bus / width) * ranks
	return hw.Dec(mb) * hw.DecOf(1) / 1024, nil
}

func text(data []byte) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if r < 0x20 || r > 0x7e {
			return -1
		}
		return r
	}, string(data)))
}

func serial(data []byte) string {
	s := fmt.Sprintf("%02X%02X%02X%02X", data[0], data[1], data[2], data[3])
	if s == "00000000" {
		return ""
	}
	return s
}

// form4 is the form of DDR3 and DDR4 modules; the two differ in the 72-bit codes.
func form4(code byte, eccSmall ...byte) (form hw.ModuleForm, ecc bool) {
	for _, c := range eccSmall {
		if code == c {
			return "SO-DIMM", true
		}
	}
	switch code {
	case 1:
		return "RDIMM", true
	case 2:
		return "DIMM", false
	case 3:
		return "SO-DIMM", false
	}
	return "", false
}

func rate(tckPS int) (int, error) {
	if tckPS < 100 || tckPS > 5000 {
		return 0, fmt.Errorf("%w: a clock period of %d ps makes no sense", ErrNotSPD, tckPS)
	}
	return Snap((2_000_000 + tckPS/2) / tckPS), nil
}

func readDDR3(d []byte) (*SPD, error) {
	covered := 126
	if d[0]&0x80 != 0 {
		covered = 117
	}
	s := &SPD{Type: "DDR3", Voltage: volts("DDR3"), ChecksumOK: crc16(d[:covered]) == stored(d, 126),
		Serial: serial(d[122:126]), PartNumber: text(d[128:146])}
	if d[6]&0x02 != 0 {
		s.Type, s.Voltage = "DDR3L", volts("DDR3L")
	}
	s.Form, s.ECC = form4(d[3]&0x0F, 8, 9, 10)
	s.ECC = s.ECC || d[8]>>3&3 == 1
	s.Ranks = int(d[7]>>3&7) + 1
	s.ChipWidth = 4 << (d[7] & 7)
	var err error
	if s.Capacity, err = capacity(256<<(d[4]&0x0F), 8<<(d[8]&7), s.ChipWidth, s.Ranks); err != nil {
		return nil, err
	}
	if d[11] == 0 {
		return nil, fmt.Errorf("%w: no time base", ErrNotSPD)
	}
	// The medium time base is in ns; the fine one, in ps, is a correction.
	fine := 0
	if d[9]&0x0F != 0 {
		fine = int(d[9]>>4) / int(d[9]&0x0F)
	}
	ps := func(medium byte, correction byte) int {
		return int(medium)*int(d[10])*1000/int(d[11]) + int(int8(correction))*fine
	}
	tck, taa := ps(d[12], d[34]), ps(d[16], d[35])
	if s.SpeedMTs, err = rate(tck); err != nil {
		return nil, err
	}
	s.CAS = (taa + tck - 1 - tck/40) / tck
	return s, nil
}

func readDDR4(d []byte) (*SPD, error) {
	s := &SPD{Type: "DDR4", Voltage: volts("DDR4"), Serial: serial(d[325:329]), PartNumber: text(d[329:349]),
		ChecksumOK: crc16(d[:126]) == stored(d, 126) && crc16(d[128:254]) == stored(d, 254)}
	s.Form, s.ECC = form4(d[3]&0x0F, 8, 9)
	s.ECC = s.ECC || d[13]>>3&3 == 1
	s.Ranks = int(d[12]>>3&7) + 1
	if d[6]&0x83 == 0x82 { // stacked dies that answer as ranks of their own
		s.Ranks *= int(d[6]>>4&7) + 1
	}
	s.ChipWidth = 4 << (d[12] & 7)
	densities := []int{256, 512, 1024, 2048, 4096, 8192, 16384, 32768, 12288, 24576}
	density := 0
	if k := int(d[4] & 0x0F); k < len(densities) {
		density = densities[k]
	}
	var err error
	if s.Capacity, err = capacity(density, 8<<(d[13]&7), s.ChipWidth, s.Ranks); err != nil {
		return nil, err
	}
	tck := int(d[18])*125 + int(int8(d[125]))
	taa := int(d[24])*125 + int(int8(d[123]))
	if s.SpeedMTs, err = rate(tck); err != nil {
		return nil, err
	}
	s.CAS = (taa*1000/tck + 974) / 1000
	return s, nil
}

func readDDR5(d []byte) (*SPD, error) {
	s := &SPD{Type: "DDR5", Voltage: volts("DDR5"), Serial: serial(d[517:521]), PartNumber: text(d[521:551]),
		ChecksumOK: crc16(d[:510]) == stored(d, 510)}
	switch d[3] & 0x0F {
	case 1, 4, 7:
		s.Form = "RDIMM"
	case 2, 5:
		s.Form = "DIMM"
	case 3, 6:
		s.Form = "SO-DIMM"
	case 8:
		s.Form = "CAMM2"
	}
	densities := []int{0, 4096, 8192, 12288, 16384, 24576, 32768, 49152, 65536}
	density := 0
	if k := int(d[4] & 0x1F); k < len(densities) {
		density = densities[k]
	}
	dies := []int{1, 1, 2, 4, 8, 16, 1, 1}[d[4]>>5]
	s.ChipWidth = 4 << (d[6] >> 5)
	s.Ranks = int(d[234]>>3&7) + 1
	subChannels := 1 << (d[235] >> 5 & 3)
	s.ECC = d[235]>>3&3 != 0
	var err error
	if s.Capacity, err = capacity(density*dies, subChannels*(8<<(d[235]&7)), s.ChipWidth, s.Ranks); err != nil {
		return nil, err
	}
	tck, taa := int(stored(d, 20)), int(stored(d, 30))
	if s.SpeedMTs, err = rate(tck); err != nil {
		return nil, err
	}
	s.CAS = (taa*997/tck + 1000) / 1000
	s.CAS += s.CAS % 2 // only even latencies exist
	return s, nil
}
