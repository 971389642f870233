package hw

// Code names a verdict, a warning, a risk, a note or a reason for a goal out of reach.
type Code string

// Severity says what a code does to a part or an option.
type Severity int

// The severities.
const (
	Refuses  Severity = iota + 1 // rules a part out, or keeps a goal out of reach
	Warns                        // to be known before it is done
	NotKnown                     // cannot be judged: a fact is missing
	Tells                        // about the machine or the record, whatever is planned
)

// Consent is what a customer has to agree to before the work.
type Consent string

// The consents.
const (
	ConsentBeyondMaker Consent = "beyond_maker"
	ConsentNoLimit     Consent = "limit_unknown"
	ConsentData        Consent = "data"
	ConsentGlued       Consent = "glued_part"
	ConsentSeal        Consent = "seal"
	ConsentUnlisted    Consent = "unlisted_battery"
)

// ConsentRow is a consent with what the customer is told.
type ConsentRow struct {
	Consent Consent
	Says    string // what it is about
	Why     string // what it means for them
	Short   string // how a line names it
}

// Consents is the table of consents, in the order of the risks that ask for them.
var Consents = []ConsentRow{
	{ConsentBeyondMaker, "above the maker's limit: may affect the warranty",
		"It was proven in this model, or the controller allows it; the maker may refuse help afterwards.", "beyond"},
	{ConsentNoLimit, "more memory than proven: the maker's limit is not known",
		"It is inferred from what runs in it now; the memory test decides, and what does not run is taken back.", "unproven"},
	{ConsentData, "data: backup, and recovery key if encrypted",
		"The drive may be copied or replaced: there is a backup, or nothing on it is needed.", "data"},
	{ConsentGlued, "a glued part is loosened", "It may not hold as before, or not come off whole.", "glued"},
	{ConsentSeal, "a seal is broken", "The maker can see that the machine was opened.", "seal"},
	{ConsentUnlisted, "a pack the maker does not list",
		"It is checked for voltage and plug; the maker may refuse help afterwards.", "unlisted"},
}

// ConsentNames lists how lines name the consents.
func ConsentNames() []string {
	out := make([]string, len(Consents))
	for i := range Consents {
		out[i] = Consents[i].Short
	}
	return out
}

// Row is the consent's row of the table.
func (c Consent) Row() ConsentRow {
	for _, row := range Consents {
		if row.Consent == c {
			return row
		}
	}
	return ConsentRow{Consent: c, Says: string(c)}
}

// CodeRow is a code with all that belongs to it.
type CodeRow struct {
	Code     Code
	Severity Severity
	Says     string  // in a few words, for a list
	Risk     bool    // it stands in table 10 of the rules, with these points
	Points   int     // of risk
	Consent  Consent // that the risk asks for
}

// The codes of verdicts.
const (
	CodeUnknown Code = "unknown"

	CodeMemorySoldered   Code = "memory.soldered_only"
	CodeMemoryForm       Code = "memory.form"
	CodeMemoryType       Code = "memory.type"
	CodeMemoryECC        Code = "memory.ecc"
	CodeMemoryClocked    Code = "memory.clocked"
	CodeMemoryOverSocket Code = "memory.over_socket"
	CodeMemoryOverLimit  Code = "memory.over_limit"
	CodeMemoryPairing    Code = "memory.pairing"

	CodeM2Purpose   Code = "m2.purpose"
	CodeM2Key       Code = "m2.key"
	CodeM2Length    Code = "m2.length"
	CodeM2Protocol  Code = "m2.protocol"
	CodeM2Refused   Code = "m2.refused"
	CodeM2Thickness Code = "m2.thickness"

	CodeBayNoHeader  Code = "bay.no_header"
	CodeBayForm      Code = "bay.form"
	CodeBayHeight    Code = "bay.height"
	CodeBayInterface Code = "bay.interface"

	CodeWirelessAntennas Code = "wireless.antennas"
	CodeWirelessList     Code = "wireless.firmware_list"

	CodeBatteryNotListed Code = "battery.not_listed"
	CodeBatteryVoltage   Code = "battery.voltage"
	CodeBatteryExcluded  Code = "battery.excluded"

	CodeExcluded     Code = "excluded"
	CodeNotOnVariant Code = "not_on_variant"
	CodeNoBay        Code = "practice.no_bay"
	CodeNoSpinning   Code = "practice.rotational"
	CodeKeep         Code = "keep"
	CodeStock        Code = "stock"
	CodeNoPlace      Code = "no_place"
)

// The codes of reasons for a goal out of reach, beside those above.
const (
	CodeMissing  Code = "missing"
	CodeBudget   Code = "budget"
	CodeConflict Code = "conflict"
	CodeNoPart   Code = "no_part"
	CodeNothing  Code = "nothing" // an own combination that changes nothing for the better
)

// The codes of warnings, risks and notes.
const (
	CodeBeyondMaker   Code = "memory.beyond_maker"
	CodeLimitInferred Code = "memory.limit_inferred"
	CodeNarrower      Code = "memory.narrower"
	CodeSingleChannel Code = "memory.single_channel"
	CodeMixed         Code = "memory.mixed"
	CodeAsymmetric    Code = "memory.asymmetric"
	CodeSlower        Code = "memory.slower"
	CodeUnreachable   Code = "memory.limit_unreachable"
	CodeMoreThan      Code = "memory.more_than_needed"

	CodeHeldBack     Code = "drive.held_back"
	CodeDriveNoGain  Code = "drive.no_gain"
	CodeRotational   Code = "drive.rotational"
	CodeHot          Code = "drive.hot"
	CodeHeatsink     Code = "drive.heatsink"
	CodeBootReplaced Code = "drive.boot_replaced"
	CodeDriveFailing Code = "drive.failing"
	CodeRaid0        Code = "drive.raid0"
	CodeKeepPad      Code = "drive.keep_pad"
	CodeEncrypted    Code = "drive.encrypted"
	CodeMBR          Code = "drive.mbr"
	CodeStatedLimit  Code = "drive.stated_limit"
	CodeCleanInstall Code = "drive.clean_install"
	CodeDataOut      Code = "drive.data_out"
	CodeOpticalOut   Code = "drive.optical_out"
	CodeSpinning     Code = "drive.spinning"

	CodeBoardOut   Code = "step.board_out"
	CodeGlued      Code = "step.glued"
	CodeSealBroken Code = "step.seal"
	CodeLiveUnplug Code = "step.live_unplug"
	CodeNoReach    Code = "reach.not_recorded"

	CodeOtherWh      Code = "battery.other_wh"
	CodeWorn         Code = "battery.worn"
	CodeSwollen      Code = "battery.swollen"
	CodeNotInspected Code = "battery.not_inspected"

	CodeWirelessNoGain Code = "wireless.no_gain"

	CodeFactAssumed   Code = "fact.assumed"
	CodeFactDisputed  Code = "fact.disputed"
	CodeFactDefaulted Code = "fact.defaulted"
	CodePulled        Code = "part.pulled"
	CodeCustomerPart  Code = "part.customer"

	CodeMachineNotKnown Code = "machine.not_known"
)

// Codes is the table of codes. Those with a risk stand in the order of table 10, which is
// the order in which an option lists its reasons.
var Codes = []CodeRow{
	{Code: CodeUnknown, Severity: NotKnown, Says: "not yet known"},
	{Code: CodeMemorySoldered, Severity: Refuses, Says: "all memory is soldered"}, {Code: CodeMemoryForm,
		Severity: Refuses, Says: "wrong module form"},
	{Code: CodeMemoryType, Severity: Refuses, Says: "wrong memory type"},
	{Code: CodeMemoryECC, Severity: Refuses, Says: "error correction"},
	{Code: CodeMemoryClocked, Severity: Refuses, Says: "clocked modules"},
	{Code: CodeMemoryOverSocket, Severity: Refuses, Says: "larger than the socket holds"},
	{Code: CodeMemoryOverLimit, Severity: Refuses, Says: "past the limit"}, {Code: CodeMemoryPairing, Severity: Refuses,
		Says: "against the shop's pairing rule"},
	{Code: CodeM2Purpose, Severity: Refuses, Says: "the slot is for something else"}, {Code: CodeM2Key, Severity: Refuses,
		Says: "wrong key"},
	{Code: CodeM2Length, Severity: Refuses, Says: "length not supported"}, {Code: CodeM2Protocol, Severity: Refuses,
		Says: "wrong interface for the slot"},
	{Code: CodeM2Refused, Severity: Refuses, Says: "the slot's marking rules it out"}, {Code: CodeM2Thickness,
		Severity: Refuses, Says: "too thick"},
	{Code: CodeBayNoHeader, Severity: Refuses, Says: "nothing to plug into"}, {Code: CodeBayForm, Severity: Refuses,
		Says: "the bay takes no caddy"},
	{Code: CodeBayHeight, Severity: Refuses, Says: "too high for the bay"},
	{Code: CodeBayInterface, Severity: Refuses, Says: "another interface than the bay's"},
	{Code: CodeWirelessAntennas, Severity: Refuses, Says: "more posts than antennas"},
	{Code: CodeWirelessList, Severity: Refuses, Says: "not on the firmware's list"},
	{Code: CodeBatteryVoltage, Severity: Refuses, Says: "different voltage"}, {Code: CodeBatteryExcluded, Severity: Refuses,
		Says: "its space is taken"},
	{Code: CodeExcluded, Severity: Refuses, Says: "not beside what stays"}, {Code: CodeNotOnVariant, Severity: Refuses,
		Says: "not on this configuration"},
	{Code: CodeNoSpinning, Severity: Refuses, Says: "no spinning drive there (shop rule)"},
	{Code: CodeNoBay, Severity: Refuses, Says: "bay not used (shop rule)"}, {Code: CodeKeep, Severity: Refuses,
		Says: "the place is left alone"},
	{Code: CodeStock, Severity: Refuses, Says: "not available"}, {Code: CodeNoPlace, Severity: Refuses, Says: "no such place"},
	{Code: CodeMissing, Severity: Refuses, Says: "an accessory is not available"}, {Code: CodeBudget, Severity: Refuses,
		Says: "above the budget"},
	{Code: CodeConflict, Severity: Refuses, Says: "only by giving up another goal"}, {Code: CodeNoPart, Severity: Refuses,
		Says: "no part would do"},
	{Code: CodeNothing, Severity: Refuses, Says: "nothing gained"},

	{Code: CodeBeyondMaker, Severity: Warns, Says: "memory above the maker's limit", Risk: true, Points: 3,
		Consent: ConsentBeyondMaker},
	{Code: CodeLimitInferred, Severity: Warns, Says: "memory above the proven limit, maker's limit not known", Risk: true,
		Points: 1, Consent: ConsentNoLimit},
	{Code: CodeNarrower, Severity: Warns, Says: "less memory bandwidth than today", Risk: true, Points: 1},
	{Code: CodeSingleChannel, Severity: Warns, Says: "all memory single-channel", Risk: true, Points: 1},
	{Code: CodeMixed, Severity: Warns, Says: "modules in the sockets differ", Risk: true, Points: 1},
	{Code: CodeAsymmetric, Severity: Warns, Says: "part of the memory runs single-channel", Risk: true},
	{Code: CodeHot, Severity: Warns, Says: "a drive that runs hot", Risk: true, Points: 1},
	{Code: CodeBootReplaced, Severity: Warns, Says: "boot drive replaced", Risk: true, Points: 1, Consent: ConsentData},
	{Code: CodeDriveFailing, Severity: Warns, Says: "a failing drive stays in the machine", Risk: true, Points: 4},
	{Code: CodeBoardOut, Severity: Warns, Says: "the main board comes out", Risk: true, Points: 3},
	{Code: CodeGlued, Severity: Warns, Says: "a glued part is peeled off", Risk: true, Points: 1,
		Consent: ConsentGlued},
	{Code: CodeSealBroken, Severity: Warns, Says: "a seal is broken", Risk: true, Points: 1, Consent: ConsentSeal},
	{Code: CodeLiveUnplug, Severity: Warns, Says: "a plug is unplugged live", Risk: true, Points: 1},
	{Code: CodeNoReach, Severity: Warns, Says: "access not recorded", Risk: true, Points: 1},
	{Code: CodeBatteryNotListed, Severity: Refuses, Says: "battery not on the maker's list", Risk: true, Points: 3,
		Consent: ConsentUnlisted},
	{Code: CodeOtherWh, Severity: Warns, Says: "a pack of another capacity than the model's", Risk: true, Points: 1},
	{Code: CodeFactAssumed, Severity: Warns, Says: "a fact known from a seller or assumed", Risk: true, Points: 1},
	{Code: CodeFactDisputed, Severity: Tells, Says: "a disputed fact", Risk: true, Points: 2},
	{Code: CodePulled, Severity: Warns, Says: "a used part", Risk: true, Points: 1},
	{Code: CodeCustomerPart, Severity: Warns, Says: "the customer's own part: no warranty of ours", Risk: true},

	{Code: CodeSlower, Severity: Warns, Says: "memory runs below its rating"},
	{Code: CodeRotational, Severity: Warns, Says: "a spinning drive"},
	{Code: CodeHeldBack, Severity: Warns, Says: "the link holds the drive back"},
	{Code: CodeDriveNoGain, Severity: Warns, Says: "a newer generation, no faster here"},
	{Code: CodeHeatsink, Severity: Warns, Says: "two heat spreaders"},
	{Code: CodeRaid0, Severity: Refuses, Says: "two drives as one volume"},
	{Code: CodeKeepPad, Severity: Warns, Says: "a pad or spreader goes back on"},
	{Code: CodeEncrypted, Severity: Warns, Says: "the drive is encrypted"},
	{Code: CodeMBR, Severity: Warns, Says: "an old partition table"},
	{Code: CodeStatedLimit, Severity: Warns, Says: "larger than the maker states"},
	{Code: CodeCleanInstall, Severity: Warns, Says: "no copy possible"},
	{Code: CodeDataOut, Severity: Warns, Says: "a drive with data comes out"},
	{Code: CodeOpticalOut, Severity: Warns, Says: "the optical drive comes out"},
	{Code: CodeWirelessNoGain, Severity: Warns, Says: "no faster at this access point"},

	{Code: CodeUnreachable, Severity: Tells, Says: "the stated limit cannot be reached"},
	{Code: CodeMoreThan, Severity: Tells, Says: "more memory than the work uses"},
	{Code: CodeWorn, Severity: Tells, Says: "the pack is worn"},
	{Code: CodeSwollen, Severity: Tells, Says: "the pack is swollen"},
	{Code: CodeNotInspected, Severity: Tells, Says: "the pack was not looked at"},
	{Code: CodeSpinning, Severity: Tells, Says: "a spinning boot drive"},
	{Code: CodeFactDefaulted, Severity: Tells, Says: "assumed typical, not checked"},
	{Code: CodeMachineNotKnown, Severity: NotKnown, Says: "is not known"},
}

// Row is the code's row of the table.
func (c Code) Row() CodeRow {
	for i := range Codes {
		if Codes[i].Code == c {
			return Codes[i]
		}
	}
	return CodeRow{Code: c, Severity: NotKnown, Says: string(c)}
}

// Risks lists the rows of table 10 in its order.
func Risks() []CodeRow {
	var out []CodeRow
	for _, row := range Codes {
		if row.Risk {
			out = append(out, row)
		}
	}
	return out
}

// CautionCode names what is to be minded at a step of the run sheet. A record's own
// cautions are texts of the shop's; those here the run sheet adds by itself.
type CautionCode string

// The cautions that a run sheet adds.
const (
	CautionLive        CautionCode = "live_unplug"
	CautionGlued       CautionCode = "glued"
	CautionSeal        CautionCode = "seal"
	CautionBoardOut    CautionCode = "board_out"
	CautionNoIsolation CautionCode = "no_isolation_step"
	CautionNoForce     CautionCode = "do_not_force"
	CautionPaste       CautionCode = "paste"
	CautionNoReach     CautionCode = "reach_not_recorded"
)

// Danger reports whether a caution is of something that can hurt: it is acknowledged before
// the step is done (docs/rules.md, The way in).
func (c CautionCode) Danger() bool { return c == CautionLive || c == CautionNoIsolation }

// Cautions is the table of cautions that have words of their own.
var Cautions = Vocabulary[CautionCode]{
	{CautionLive, "a plug is unplugged live: wiggle it by its body, never pull the wires", "", nil},
	{CautionGlued, "glue gives way: slowly, with warmth where the maker allows it", "", nil},
	{CautionSeal, "a seal is broken", "", nil},
	{CautionBoardOut, "the main board comes out: by its edges, onto a clean mat", "", nil},
	{CautionNoIsolation, "nothing isolates the battery: everything inside stays live", "", nil},
	{CautionPaste, "the paste is renewed: clean with isopropyl alcohol of 90 % or more, let it dry, new paste thin", "", nil},
	{CautionNoReach, "the way to a place served here is not recorded: look before each step, and write down which one bares it",
		"", nil},
	{CautionNoForce, "do not force it: what does not move has one more screw or clip", "", []string{"do not force"}},
}
