package plan

import "yembo/core/hw"

// The changes to the plain case that several of the cases share.

func addSocket(in *Input) {
	in.Chassis.Memory.Sockets = append(in.Chassis.Memory.Sockets,
		hw.Socket{ID: "dimm2", Channel: "A", Form: "SO-DIMM", Reach: "plug"})
}

// noMakersFigure leaves nothing but what runs in the machine to go by.
func noMakersFigure(in *Input) {
	in.Chassis.Memory.Limits = hw.Limits{}
	addSocket(in)
	in.Machine.Fitted.Memory = []hw.FittedModule{{Socket: "dimm2",
		Module: hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(8)), Speed: hw.Known(3200),
			Ranks: hw.Known(1)}}}
	in.Request.Goals.MemoryGB = hw.Known(gb(20))
}

// oneChannel leaves two sockets on two channels, of which one module is enough.
func oneChannel(in *Input) {
	in.Chassis.Memory.Soldered, in.Machine.Fitted.Memory = nil, []hw.FittedModule{}
	in.Chassis.Memory.Sockets = append(in.Chassis.Memory.Sockets,
		hw.Socket{ID: "dimm2", Channel: "A", Form: "SO-DIMM", MaxModule: hw.Known(gb(32)), Reach: "plug"})
	in.Request.Goals.MemoryGB = hw.Known(gb(8))
}

// striped makes the drive of the bay one of a striped volume, with nothing else asked for but storage.
func striped(in *Input) {
	in.Machine.Fitted.Drives[0].Raid0 = hw.Known(true)
	in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(500))}
}

// oneFailing makes the drive of the bay a failing one; the memory alone is asked for.
func oneFailing(in *Input) {
	in.Machine.Fitted.Drives[0].Failing = hw.Known(true)
	in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(16))}
}

// newLock asks for a service that changes what the encrypted drive is locked to, and for nothing else.
func newLock(in *Input) {
	in.Chassis.Services[0].ChangesSecurity, in.Machine.Fitted.Drives[0].Encrypted = hw.Known(true), hw.Known(true)
	in.Request.Goals, in.Request.Services = hw.Goals{}, []hw.AskedService{{ID: "paste"}}
}

// narrower puts one large slow module in place of the fast one.
func narrower(in *Input) {
	in.Machine.Fitted.Memory = []hw.FittedModule{{Socket: "dimm1",
		Module: hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(4)), Speed: hw.Known(3200),
			Ranks: hw.Known(1)}}}
	in.Chassis.Memory.Limits.Maker = hw.Known(gb(8 + 8))
	in.Parts.Parts[0].Memory.Speed = hw.Known(2666)
}

func beyondMaker(in *Input) {
	in.Chassis.Memory.Limits = hw.Limits{Maker: hw.Known(gb(12)), Proven: hw.Known(gb(16))}
	in.Request.Practice.MemoryLimit = hw.Known[hw.LimitPractice]("proven")
}

// bootInSlot puts the boot drive into the M.2 slot and takes the bay away.
func bootInSlot(in *Input) {
	in.Chassis.Bays = []hw.Bay{}
	in.Machine.Fitted.Drives[0] = hw.FittedDrive{Place: "m2a", UsedGB: hw.Known(gb(100)), Boot: hw.Known(true),
		Drive: hw.Drive{Interface: "nvme", Key: hw.Known("M"), Length: hw.Known(80), Gen: hw.Known(3),
			Lanes: hw.Known(4), Capacity: hw.Known(gb(250))}}
}

func unlisted(in *Input) {
	in.Parts.Parts[3].Battery.PartNumber = "N9"
	in.Request.Practice.AllowUnlistedBattery = hw.Known(true)
}

func disputed(in *Input) {
	in.Chassis.Findings = []hw.Finding{{Path: "/slots/m2a/lanes", Value: []byte("4"), Source: "bench"},
		{Path: "/slots/m2a/lanes", Value: []byte("2"), Source: "maker_document"}}
}
