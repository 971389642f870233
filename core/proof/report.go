package proof

import "yembo/core/hw"

// FormatReport is the name of the document that a customer gets.
const FormatReport = "yembo.report/1"

// Report is what a customer gets with their machine, in the fields of yembo.report/1. What was not told
// is left out.
type Report struct {
	Format    string           `json:"format"`
	Job       string           `json:"job"`
	Shop      ReportShop       `json:"shop"`
	Customer  string           `json:"customer,omitempty"`
	Machine   ReportMachine    `json:"machine"`
	Sentence  string           `json:"sentence"`
	Complaint string           `json:"complaint,omitempty"`
	Found     []string         `json:"found"`
	Done      []ReportDone     `json:"done"`
	Measures  []ReportMeasure  `json:"measures"`
	Tests     []string         `json:"tests"`
	Left      []string         `json:"left"`
	Data      []string         `json:"data"`
	Old       []ReportOld      `json:"old_parts"`
	Care      []string         `json:"care"`
	Cautions  []string         `json:"cautions"`
	Warranty  []ReportWarranty `json:"warranty"`
	Open      []string         `json:"open"`
	Agreed    string           `json:"agreed,omitempty"`
	Notes     []string         `json:"notes"`
	Signed    *ReportSigned    `json:"signed,omitempty"`
	Handed    *ReportHanded    `json:"handed,omitempty"`
}

// ReportShop is who did the work.
type ReportShop struct {
	Name    string `json:"name,omitempty"`
	Address string `json:"address,omitempty"`
}

// ReportMachine is the machine that was worked on.
type ReportMachine struct {
	ID     string `json:"id"`
	Model  string `json:"model"`
	Serial string `json:"serial,omitempty"`
}

// ReportDone is a part that was fitted, or work that was done.
type ReportDone struct {
	Place  string `json:"place,omitempty"`
	What   string `json:"what"`
	Serial string `json:"serial,omitempty"`
}

// ReportMeasure is something measured before and after, with what it shows.
type ReportMeasure struct {
	Name   string           `json:"name"`
	Unit   string           `json:"unit,omitempty"`
	Before hw.Maybe[hw.Dec] `json:"before,omitzero"`
	After  hw.Maybe[hw.Dec] `json:"after,omitzero"`
	Shows  string           `json:"shows"`
}

// ReportOld is a part that came out, and where it went.
type ReportOld struct {
	What   string `json:"what"`
	Goes   string `json:"goes"`
	Serial string `json:"serial,omitempty"`
}

// ReportWarranty is until when the shop answers for a part.
type ReportWarranty struct {
	What   string `json:"what"`
	Serial string `json:"serial,omitempty"`
	Until  string `json:"until"`
}

// ReportSigned is who proved it, and when.
type ReportSigned struct {
	By string `json:"by"`
	On string `json:"on"`
}

// ReportHanded is to whom the machine went.
type ReportHanded struct {
	To      string   `json:"to"`
	On      string   `json:"on"`
	With    []string `json:"with"`
	Without []string `json:"without"`
}
