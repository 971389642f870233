package shop_test

import (
	"errors"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
)

// TestCorrectMachine: a machine that was entered wrongly is corrected with its owner, its open job
// goes along, the history keeps the former state, and that comes back by one press.
func TestCorrectMachine(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	was, err := s.Machine(ctx, "wath-07")
	if err != nil {
		t.Fatal(err)
	}
	next := *was.Machine
	next.Serial = "PD15-22072"
	next.Fitted.Drives = []hw.FittedDrive{{Place: "m2a", Drive: hw.Drive{Interface: "nvme", Capacity: dec(512),
		Length: hw.Known(80), Gen: hw.Known(3), Maker: "Bexmoor"}, Encrypted: hw.Known(true), Failing: hw.Known(false)}}
	c := jobs.MachineCorrection{Machine: &next, Customer: "Gaunt & Son", Contact: "015 550 999"}
	if err := s.CorrectMachine(ctx, okell, "1", was.Key, was.MachineVer+1, c); !errors.Is(err, base.ErrChanged) {
		t.Errorf("another version is corrected: %v", err)
	}
	for range 2 { // sent twice is once
		if err := s.CorrectMachine(ctx, okell, "2", was.Key, was.MachineVer, c); err != nil {
			t.Fatal(err)
		}
	}
	now, err := s.Machine(ctx, was.Key)
	if err != nil || now.Customer != "Gaunt & Son" || now.Machine.Serial != "PD15-22072" ||
		!reflect.DeepEqual(now.Machine.Fitted.Drives, next.Fitted.Drives) {
		t.Fatalf("%v; %s, %+v", err, now.Customer, now.Machine)
	}
	if j, err := s.Job(ctx, was.JobID); err != nil || j.Customer != "Gaunt & Son" || j.Machine.Serial != "PD15-22072" {
		t.Errorf("the job did not go along: %v %s", err, j.Customer)
	}
	entry := now.History[0]
	if !entry.Restorable || entry.What != "corrected: serial, drives, owner" {
		t.Fatalf("the history tells %+v", entry)
	}
	if err := s.PutMachineBack(ctx, okell, "3", was.Key, now.MachineVer, entry.ID); err != nil {
		t.Fatal(err)
	}
	back, err := s.Machine(ctx, was.Key)
	if err != nil || back.Customer != was.Customer || !reflect.DeepEqual(back.Machine, was.Machine) {
		t.Errorf("%v; put back it is %s %+v, it was %s %+v", err, back.Customer, back.Machine, was.Customer, was.Machine)
	}
	if err := s.PutMachineBack(ctx, okell, "4", "1", 1, entry.ID); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("another machine's state is put into it: %v", err)
	}

	next.Chassis = "no-such-model"
	var faults hw.Faults
	err = s.CorrectMachine(ctx, okell, "5", was.Key, back.MachineVer, jobs.MachineCorrection{Machine: &next})
	if !errors.As(err, &faults) || faults[0].Pointer != "/chassis" {
		t.Errorf("a model that is not on record: %v", err)
	}
	next.Chassis = "quillon-aster-14"
	next.Fitted.Drives[0].Place = "no-such-place"
	err = s.CorrectMachine(ctx, okell, "6", was.Key, back.MachineVer, jobs.MachineCorrection{Machine: &next})
	if !errors.As(err, &faults) ||
		!slices.ContainsFunc(faults, func(f hw.Fault) bool { return f.Pointer == "/fitted/drives/0/place" }) {
		t.Errorf("a place that the other model does not have: %v", err)
	}
}

// TestCorrectJob: what was agreed is corrected with the danger that it tells of, and put back; a
// customer who is forgotten leaves nothing of it in the history.
func TestCorrectJob(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	was, err := s.Job(ctx, 2)
	if err != nil {
		t.Fatal(err)
	}
	next := jobs.Agreement{Customer: was.Customer, Contact: "the purser, 015 550 177", Complaint: "It hisses.", Wish: was.Wish,
		Details: was.Details, Promised: morning.Add(28 * time.Hour)}
	next.Details.Consents = append(slices.Clone(was.Details.Consents), hw.ConsentGlued)
	next.Details.Condition.Swollen = true
	if err := s.CorrectJob(ctx, okell, "1", 2, was.JobVer, next, true); err != nil {
		t.Fatal(err)
	}
	now, err := s.Job(ctx, 2)
	if err != nil || now.Complaint != "It hisses." || now.State.Danger == "" || now.Contact != "the purser, 015 550 177" ||
		!now.Promised.Equal(next.Promised) || !now.Machine.Fitted.Battery.Swollen.Or(false) {
		t.Fatalf("%v; %q, danger %q, %s, %v", err, now.Complaint, now.State.Danger, now.Contact, now.Promised)
	}
	entry := now.History[0]
	for _, word := range []string{"complaint", "condition", "contact", "consents", "promise"} {
		if !entry.Restorable || !strings.Contains(entry.What, word) {
			t.Errorf("the history tells %q", entry.What)
		}
	}
	if err := s.PutJobBack(ctx, okell, "2", 2, now.JobVer, entry.ID); err != nil {
		t.Fatal(err)
	}
	back, err := s.Job(ctx, 2)
	if err != nil || back.Complaint != was.Complaint || back.State.Danger != "" || !back.Promised.Equal(was.Promised) ||
		!reflect.DeepEqual(back.Details, was.Details) || back.Machine.Fitted.Battery.Swollen.Or(true) {
		t.Errorf("%v; put back: %q, danger %q, %+v", err, back.Complaint, back.State.Danger, back.Details)
	}

	next = jobs.Agreement{Customer: "Gaunt & Son", Complaint: "It hisses.", Wish: was.Wish, Details: was.Details}
	if err := s.CorrectJob(ctx, okell, "3", 2, back.JobVer, next, true); err != nil {
		t.Fatal(err)
	}
	if m, err := s.Machine(ctx, was.Key); err != nil || m.Customer != "Gaunt & Son" {
		t.Errorf("the machine did not go along: %v %s", err, m.Customer)
	}
	if err := s.ForgetCustomer(ctx, okell, was.CustomerID, false); err != nil {
		t.Fatal(err)
	}
	left, err := s.Job(ctx, 2)
	if err != nil {
		t.Fatal(err)
	}
	for _, h := range left.History {
		if h.Restorable && strings.Contains(h.What, "customer") {
			t.Errorf("what the forgotten customer said can still be put back: %+v", h)
		}
	}
	bad := next
	bad.Customer, bad.Wish = "", &hw.Request{Goals: hw.Goals{MemoryGB: hw.Known(hw.DecOf(-1))}}
	var faults hw.Faults
	if err := s.CorrectJob(ctx, okell, "4", 2, left.JobVer, bad, true); !errors.As(err, &faults) ||
		faults[0].Pointer != "/customer" {
		t.Errorf("a correction without a customer: %v", err)
	}
}
