package week

import "yembo/core/hw"

// Dos is the table of what a stretch is.
var Dos = hw.Vocabulary[Do]{{Word: Hands, Says: "hands on it"}, {Word: Wait, Says: "it runs by itself"}}

// Splits is the table of what may interrupt hands.
var Splits = hw.Vocabulary[Split]{{Word: SplitNo, Says: "in one piece"}, {Word: SplitBreak, Says: "round a break"},
	{Word: SplitClosing, Says: "over night too"}}

// States is the table of how a promise stands.
var States = hw.Vocabulary[State]{{Word: Kept, Says: "kept"}, {Word: AtRisk, Says: "at risk"}, {Word: Broken, Says: "broken"},
	{Word: None, Says: "not promised"}}

// Reasons is the table of why a job is not ready earlier.
var Reasons = hw.Vocabulary[ReasonCode]{{Word: WhyStarted, Says: "under way"}, {Word: WhyNow, Says: "from now"},
	{Word: WhyArrival, Says: "the parts come"}, {Word: WhyLook, Says: "they are looked at"}, {Word: WhyMachine,
		Says: "the machine comes"},
	{Word: WhyPin, Says: "put there by hand"}, {Word: WhyBench, Says: "the bench is free after another job"},
	{Word: WhyPerson, Says: "hands are free after another job"}, {Word: WhyDay, Says: "it would stand open over night"},
	{Word: WhyHours, Says: "the next hours"}, {Word: WhyHands, Says: "work"}, {Word: WhyWait, Says: "runs by itself"},
	{Word: WhyOpening, Says: "the next opening"}, {Word: WhyMargin, Says: "the margin"}, {Word: WhyRound, Says: "rounded up"}}

// NoPlaces is the table of why a job has no place.
var NoPlaces = hw.Vocabulary[NoPlace]{{Word: Blocked, Says: "an answer is missing"},
	{Word: ArrivalUnknown, Says: "it is not known when the parts come"}, {Word: NeverFits, Says: "it fits nowhere, not even alone"}}

// PinCodes is the table of why a pin cannot stand.
var PinCodes = hw.Vocabulary[PinCode]{{Word: PinArrival, Says: "the parts are not there yet"}, {Word: PinPast,
	Says: "that is past"},
	{Word: PinMachine, Says: "the machine is not there yet"}, {Word: PinHours, Says: "it does not fit there, not even alone"},
	{Word: PinOverlap, Says: "what stands there leaves no room"}}

// TellCodes is the table of what has to be told.
var TellCodes = hw.Vocabulary[TellCode]{{Word: TellDanger, Says: "danger comes first"}, {Word: TellBroken,
	Says: "what was promised is not kept"},
	{Word: TellTooLate, Says: "the parts come too late"}, {Word: TellAtRisk, Says: "less time is left than the margin"},
	{Word: TellOvernight, Says: "it stands open over night"}, {Word: TellAsk, Says: "ask when the parts come"},
	{Word: TellBlocked, Says: "ask for the answer"}, {Word: TellNever, Says: "it fits nowhere"}}
