package proof

import (
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
)

func side(profile string, runs ...string) Side {
	s := Side{Profile: profile}
	for _, r := range runs {
		d, err := hw.ParseDec(r)
		if err != nil {
			panic(err)
		}
		s.Runs = append(s.Runs, d)
	}
	return s
}

// TestJudge: a measure is judged by its medians, from three runs a side that were taken in one way, and
// only where the ranges lie apart.
func TestJudge(t *testing.T) {
	for _, tt := range []struct {
		name          string
		m             Measure
		judged        Judged
		before, after string
		percent       string
		odd           string
	}{
		{"less is better", Measure{Less: true, Before: side("", "50", "46", "44"), After: side("", "22", "20", "24")}, Better,
			"46", "22", "-52.2", ""},
		{"more is worse of them", Measure{Less: true, Before: side("", "20", "21", "22"), After: side("", "30", "31", "32")},
			Worse, "21", "31", "47.6", ""},
		{"more is better", Measure{Before: side("", "900", "910", "905", "908"), After: side("", "1800", "1810", "1805",
			"1808")}, Better, "906.5", "1806.5", "99.3", ""},
		{"they touch", Measure{Before: side("", "10", "11", "12"), After: side("", "12", "13", "14")}, NoChange, "11", "13", "", ""},
		{"one within the other", Measure{Before: side("", "10", "20", "15"), After: side("", "14", "15", "16")}, NoChange,
			"15", "15", "", ""},
		{"two runs", Measure{Before: side("", "10", "11", "12"), After: side("", "22", "23")}, TooFew, "11", "22.5", "", ""},
		{"none before", Measure{After: side("", "22", "23", "24")}, TooFew, "", "23", "", ""},
		{"none after", Measure{Before: side("", "22", "23", "24")}, Waits, "23", "", "", ""},
		{"two ways", Measure{Before: side("dim", "10", "11", "12"), After: side("bright", "22", "23", "24")}, Other, "11",
			"23", "", ""},
		{"from nothing", Measure{Before: side("", "0", "0", "0"), After: side("", "5", "6", "7")}, Better, "0", "6", "", ""},
		{"a slip of the finger", Measure{Before: side("", "44", "460", "46"), After: side("", "22", "20", "24")}, Worse, "46",
			"22", "-52.2", "before 460"},
	} {
		j := tt.m.Judge()
		says := func(m hw.Maybe[hw.Dec]) string {
			if d, ok := m.Get(); ok {
				return d.String()
			}
			return ""
		}
		if j.Judged != tt.judged || says(j.Before) != tt.before || says(j.After) != tt.after || says(j.Percent) != tt.percent ||
			strings.Join(j.Odd, ";") != tt.odd {
			t.Errorf("%s: %s, %s to %s, %s per cent, odd %v", tt.name, j.Judged, says(j.Before), says(j.After), says(j.Percent), j.Odd)
		}
	}
}

// TestJoin: what nobody looked at stays unseen, a report's line takes the place of what was to be
// looked for, and a total that differs while a module is missing is no second fault.
func TestJoin(t *testing.T) {
	expect := []Line{
		{Place: "d1", What: whatCapacity},
		{Place: "d2", What: whatCapacity},
		{Place: PlaceMemory, What: whatCapacity},
		{Place: PlaceMemory, What: whatSpeed},
		{Place: "m2a", What: whatLink},
	}
	report := []Line{
		{Place: "d1", What: whatCapacity},
		{Place: "d2", What: whatCapacity, Code: ModuleAbsent},
		{Place: "d1", What: whatType},
		{Place: PlaceMemory, What: whatCapacity, Code: ModuleAbsent},
	}
	var got []string
	for _, j := range Join(expect, report) {
		got = append(got, j.Place+" "+j.What+" "+string(j.Standing))
	}
	want := "d1 capacity_gb same, d1 type same, d2 capacity_gb open, memory capacity_gb follows, memory speed_mts " +
		"follows, m2a link unseen"
	if strings.Join(got, ", ") != want {
		t.Errorf("%s\nwant %s", strings.Join(got, ", "), want)
	}
	report[1].Code = ""
	for _, j := range Join(expect, report) {
		if j.Place == PlaceMemory && j.What == whatCapacity && j.Standing != Open {
			t.Errorf("less memory than was fitted, every module seen, stands as %s", j.Standing)
		}
	}
}

// TestFitted: a machine after the work has what went in with its serial, not what came out, and still
// has what was left as it was after all; the new drive is started from where the data went to it.
func TestFitted(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "d1"}, {ID: "d2"}}}, Slots: []hw.Slot{{ID: "m2a"}}}
	m := &hw.Machine{}
	m.Fitted.Memory = []hw.FittedModule{{Socket: "d2", Module: hw.Module{Serial: "OLD"}}}
	m.Fitted.Drives = []hw.FittedDrive{{Place: "m2a", Drive: hw.Drive{Serial: "OLD"}, Boot: hw.Known(true)}}
	parts := &hw.Parts{Parts: []hw.Part{{ID: "mod", Memory: &hw.Module{}}, {ID: "ssd", Drive: &hw.Drive{}}}}
	o := &plan.Option{
		Actions: []plan.Action{
			{Do: plan.DoAdd, Place: "d1", Part: "mod"},
			{Do: plan.DoReplace, Place: "d2", Part: "mod"},
			{Do: plan.DoReplace, Place: "m2a", Part: "ssd"},
		},
		Migration: &plan.Migration{Place: "m2a"},
	}
	serial := func(place string) string { return "NEW-" + place }
	after := Fitted(ch, m, o, parts, serial, func(place string) bool { return place == "d2" })
	var got []string
	for _, f := range after.Fitted.Memory {
		got = append(got, f.Socket+" "+f.Module.Serial)
	}
	for _, f := range after.Fitted.Drives {
		got = append(got, f.Place+" "+f.Drive.Serial)
		if !f.New.Or(false) || Used(after).Fitted.Drives[0].New.IsKnown() {
			t.Errorf("%s was bought: new until the work is signed", f.Place)
		}
		if boot, ok := f.Boot.Get(); !ok || !boot {
			t.Errorf("%s is not what it starts from", f.Place)
		}
	}
	if says := strings.Join(got, ", "); says != "d1 NEW-d1, d2 OLD, m2a NEW-m2a" {
		t.Errorf("it has %s", says)
	}
	if len(m.Fitted.Memory) != 1 || m.Fitted.Drives[0].Drive.Serial != "OLD" {
		t.Error("the machine before was changed")
	}
}
