package reading

import (
	"regexp"
	"strings"

	"yembo/core/hw"
)

// lshw reads the JSON of lshw -json: one tree, or a list of nodes.
func (o *Observed) lshw(text []byte) error {
	all, err := objects(text)
	if err != nil {
		return err
	}
	nodes := 0
	for _, top := range all {
		for _, v := range list(top) {
			if node, ok := v.(object); ok && str(node["class"]) != "" {
				nodes++
				o.lshwNode(node)
			}
		}
	}
	if nodes == 0 {
		return &Refused{Reason: "the JSON holds no node of lshw"}
	}
	return nil
}

func (o *Observed) lshwNode(node object) {
	id, class := str(node["id"]), str(node["class"])
	base, _, _ := strings.Cut(id, ":")
	switch {
	case class == "system":
		if s := o.system(); s.Maker == "" && s.Model == "" && s.Serial == "" {
			s.Maker, s.Model, s.Serial = said(str(node["vendor"])), said(str(node["product"])),
				saidSerial(str(node["serial"]))
		}
	case class == "memory" && base == "firmware":
		o.system().Firmware = said(str(node["version"]))
	case class == "memory" && base == "memory":
		o.lshwMemory(node)
		return
	case class == "memory" && base == "bank":
		// A list of nodes has the banks by themselves.
		o.lshwBank(node)
	case class == "power" && base == "battery":
		o.lshwBattery(node)
	case class == "disk" && (base == "disk" || base == "namespace"):
		o.lshwDisk(node)
		return
	case class == "storage" && base == "nvme":
		o.lshwNVMe(node)
		return
	}
	for _, child := range list(node["children"]) {
		if c, ok := child.(object); ok {
			o.lshwNode(c)
		}
	}
}

// lshwMemory reads an array; only system memory counts.
func (o *Observed) lshwMemory(node object) {
	if d := str(node["description"]); d != "" && !strings.EqualFold(d, "System Memory") {
		return
	}
	if n, ok := whole(node["capacity"]); ok && n > 0 {
		o.memory().Max = hw.Known(o.memory().Max.Or(0) + bytesGB(n))
	}
	for _, child := range list(node["children"]) {
		if c, ok := child.(object); ok && strings.HasPrefix(str(c["id"]), "bank") {
			o.lshwBank(c)
		}
	}
}

var (
	mhzWord  = regexp.MustCompile(`([0-9]+) MHz`)
	bankForm = regexp.MustCompile(`(?i)\b(SODIMM|DIMM|Row of chips|Chip|Die|CAMM)\b`)
)

// lshwBank reads one bank: its description holds form, generation and speed.
func (o *Observed) lshwBank(node object) {
	description := str(node["description"])
	d := Device{Locator: said(str(node["slot"])), PartNumber: said(str(node["product"])),
		Serial: saidSerial(str(node["serial"])), source: "lshw"}
	for _, word := range strings.Fields(description) {
		if t := memoryType(word); t != "" {
			d.Type = t
			break
		}
	}
	n, sized := whole(node["size"])
	switch {
	case sized && n > 0:
		d.Capacity = hw.Known(bytesGB(n))
	case strings.Contains(description, "[empty]") || sized && n == 0:
		d.Capacity = hw.Known(hw.Dec(0))
		d.PartNumber, d.Serial = "", ""
	}
	if m := mhzWord.FindStringSubmatch(description); m != nil {
		d.Rated = speedOf(m[1])
	} else if hz, ok := whole(node["clock"]); ok && hz >= 1_000_000 {
		d.Rated = positive(int(hz / 1_000_000))
	}
	form := ""
	if m := bankForm.FindString(description); m != "" {
		form = m
	}
	d.build(form)
	m := o.memory()
	m.Devices = append(m.Devices, d)
	if !d.Soldered.Or(false) {
		m.Sockets = hw.Known(m.Sockets.Or(0) + 1)
	} else {
		m.Sockets = hw.Known(m.Sockets.Or(0))
	}
}

// lshwBattery reads a pack; its capacity is in mWh.
func (o *Observed) lshwBattery(node object) {
	n, ok := whole(node["capacity"])
	if !ok || n <= 0 || str(node["units"]) != "" && str(node["units"]) != "mWh" {
		return
	}
	b := Battery{Design: likely(fromMilli(n)), source: "lshw"}
	if v, _, ok := figure(strings.TrimSuffix(str(at(node, "configuration", "voltage")), "V")); ok {
		b.Voltage = likely(v.Hundredths())
	}
	o.Batteries = append(o.Batteries, b)
}

func (o *Observed) lshwDisk(node object) {
	if removable, _ := at(node, "capabilities", "removable").(string); removable != "" {
		return
	}
	d := Drive{Model: said(str(node["product"])), Serial: saidSerial(str(node["serial"])), source: "lshw"}
	description := strings.ToUpper(str(node["description"]))
	switch {
	case strings.HasPrefix(description, "ATA"):
		d.Interface = "sata"
	case strings.Contains(description, "NVME"):
		d.Interface = "nvme"
	}
	if n, ok := whole(node["size"]); ok && n > 0 {
		d.Capacity = hw.Known(n)
	}
	if d.Model != "" || d.Serial != "" {
		o.Drives = append(o.Drives, d)
	}
}

// lshwNVMe reads a controller; the size stands in its namespaces.
func (o *Observed) lshwNVMe(node object) {
	d := Drive{Model: said(str(node["product"])), Serial: saidSerial(str(node["serial"])), Interface: "nvme",
		source: "lshw"}
	var size int64
	for _, child := range list(node["children"]) {
		if n, ok := whole(at(child, "size")); ok && n > 0 {
			size += n
		}
	}
	if size > 0 {
		d.Capacity = hw.Known(size)
	}
	o.Drives = append(o.Drives, d)
}
