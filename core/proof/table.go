package proof

import "yembo/core/hw"

// Code names a kind of difference (docs/rules.md, Proof and hand-over).
type Code string

// The codes, in the order of the table.
const (
	ModuleAbsent Code = "proof.module_absent"
	Slower       Code = "proof.slower"
	OneChannel   Code = "proof.one_channel"
	OtherModule  Code = "proof.other_module"
	DriveAbsent  Code = "proof.drive_absent"
	OtherDrive   Code = "proof.other_drive"
	DriveFailing Code = "proof.drive_failing"
	DriveUsed    Code = "proof.drive_used"
	LinkDiffers  Code = "proof.link"
	NoVolume     Code = "proof.no_volume"
	NoStart      Code = "proof.no_start"
	Message      Code = "proof.message"
	BatteryLow   Code = "proof.battery_low"
	OtherBattery Code = "proof.other_battery"
	OtherSerial  Code = "proof.serial"
)

// Row is a kind of difference with what is likely behind it and what to try.
type Row struct {
	Code    Code
	Says    string   // in a few words
	ByHand  bool     // seen by a person; no report tells it
	Causes  []string // likeliest first
	Try     []string // one after the other
	Figure  Figure   // of the first thing to try
	Minutes []int    // of each thing to try, about
}

// Figure is the drawing that goes with a thing to try.
type Figure string

// The figures.
const (
	FigureSeat    Figure = "seat"    // a module in at its angle, and down until it clicks
	FigureSlot    Figure = "slot"    // a drive out of its slot and in again
	FigurePlug    Figure = "plug"    // a plug pressed home
	FigureNone    Figure = ""        // words alone
	FigureCharger Figure = "charger" // the charger in, and some minutes
)

// Table is the table of differences: what each tells and what to try, in order.
var Table = []Row{
	{ModuleAbsent, "a module is not seen", false,
		[]string{"It is not fully seated.", "It sits in the wrong socket."},
		[]string{"Take it out, clean its contacts, put it in at the angle until no gold shows, press until both arms click.",
			"Look which socket it is in, and put it where it was planned.", "Put a module that is known to be good in its place.",
			"The socket: stop, call the customer, correct the model's record."}, FigureSeat, []int{2, 2, 4, 0}},
	{Slower, "the memory is slower than planned", false,
		[]string{"Mixed modules, or the platform's own limit."},
		[]string{
			"Compare with the planned speed: as planned is no fault.",
			"Look at the labels of all modules.",
		}, FigureNone, []int{1, 3}},
	{OneChannel, "half the bandwidth", true,
		[]string{"Both modules are on one channel."}, []string{"Move one to the other channel."}, FigureSeat, []int{3}},
	{OtherModule, "another module than planned", false,
		[]string{"The modules are swapped.", "Another part was fitted."},
		[]string{"Read its label; correct what was fitted.", "Put the modules where they were planned."}, FigureSeat, []int{2, 3}},
	{DriveAbsent, "the drive is not seen", false,
		[]string{"It is not seated.", "The slot refuses its protocol or its marking.", "It is disabled in the firmware."},
		[]string{
			"Take it out and seat it again.",
			"Check the slot's record against the drive's label.",
			"Look for it in the firmware's settings.",
		},
		FigureSlot, []int{3, 2, 2}},
	{OtherDrive, "another drive than planned", false,
		[]string{"Another part was fitted.", "The drives are swapped."},
		[]string{"Read its label; correct what was fitted."}, FigureSlot, []int{2}},
	{DriveFailing, "the drive says that it is failing", false,
		[]string{"It is failing.", "Its cable or its contacts are bad."},
		[]string{"Save what is on it before anything else.", "Put another in its place, and send it back."}, FigureNone, []int{0, 3}},
	{DriveUsed, "a drive sold as new has been used", false,
		[]string{"It was used before.", "It is another drive than the one that was bought."},
		[]string{"Read its label against the order.", "Send it back, and put a new one in."}, FigureNone, []int{2, 3}},
	{LinkDiffers, "the link runs otherwise than slot and drive allow", false,
		[]string{"The contacts are dirty.", "Lanes are shared with another place.", "The slot is lower than recorded."},
		[]string{
			"Take it out, clean its contacts, seat it again.",
			"If it stays, correct the model's record.",
			"Leave it in, and read it again under load.",
		}, FigureSlot, []int{3, 2, 2}},
	{NoVolume, "the new drive is not in the system", true,
		[]string{"It is not initialised."}, []string{"Initialise it (GPT) and make a volume."}, FigureNone, []int{3}},
	{NoStart, "it does not start, the screen is dark", true,
		[]string{"The memory is being trained.", "The battery is not connected, and there is no charger."},
		[]string{
			"Wait five minutes on the charger.",
			"Look at the battery's plug.",
			"One module at a time.",
		}, FigureCharger, []int{5, 2, 6}},
	{Message, "it says that its settings changed", true,
		[]string{
			"Once it is normal after a memory change.",
		}, []string{"Restart it; twice means the clock cell or a module."}, FigureNone, []int{2}},
	{BatteryLow, "the new pack holds less than its design", false,
		[]string{"Its gauge is not calibrated yet."}, []string{"One full cycle; then judge."}, FigureNone, []int{0}},
	{OtherBattery, "another pack than planned, or none", false,
		[]string{"Another pack was fitted.", "Its plug is out.", "Its gauge was not reset yet."},
		[]string{"Look at the plug.", "Read the label of the pack."}, FigurePlug, []int{1, 2}},
	{OtherSerial, "the serial is another", false,
		[]string{"It is a report of another machine."}, []string{"Ask before it counts."}, FigureNone, []int{0}},
}

// tryUnderLoad is, of what to try against a link, what only one seen at rest asks for.
const tryUnderLoad = 2

// Row is the code's row of the table.
func (c Code) Row() Row {
	for _, r := range Table {
		if r.Code == c {
			return r
		}
	}
	return Row{Code: c, Says: string(c)}
}

// Codes are the codes of the table.
func Codes() []string {
	out := make([]string, len(Table))
	for i := range Table {
		out[i] = string(Table[i].Code)
	}
	return out
}

// ByHandRows are the differences that only a person sees.
func ByHandRows() []Row {
	var out []Row
	for _, r := range Table {
		if r.ByHand {
			out = append(out, r)
		}
	}
	return out
}

// what is compared, in the order of a place's lines.
const (
	whatSerial    = "serial"
	whatCapacity  = "capacity_gb"
	whatType      = "type"
	whatSpeed     = "speed_mts"
	whatDrive     = "drive"
	whatInterface = "interface"
	whatHealthy   = "healthy"
	whatPowerOn   = "power_on_h"
	whatWear      = "wear_percent"
	whatLink      = "link"
	whatDesign    = "design_wh"
	whatFull      = "full_wh"
)

// Whats is the table of what is compared.
var Whats = hw.Vocabulary[string]{
	{Word: whatSerial, Says: "serial"},
	{Word: whatCapacity, Says: "capacity"},
	{Word: whatType, Says: "type"},
	{
		Word: whatSpeed,
		Says: "speed",
	},
	{Word: whatDrive, Says: "drive"},
	{Word: whatInterface, Says: "interface"},
	{Word: whatHealthy, Says: "health"},
	{Word: whatPowerOn, Says: "hours powered on"},
	{Word: whatWear, Says: "wear"},
	{Word: whatLink, Says: "link"},
	{Word: whatDesign, Says: "energy when new"},
	{Word: whatFull, Says: "energy when full"},
}
