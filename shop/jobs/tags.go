package jobs

import (
	"context"
	"encoding/json"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/store"
)

// A machine's key is a number; its tag is what people call it, proposed from the customer's
// name or the customer's own, and may change. A tag has a letter, so that addresses can have
// either.

func hasLetter(tag string) bool {
	return strings.ContainsFunc(tag, func(r rune) bool { return r >= 'a' && r <= 'z' })
}

// tagFault says why a machine cannot have a tag, "" where it can.
func tagFault(tx store.Tx, tag string) string {
	taken, err := tx.Taken(base.KindMachine, "tag", tag)
	switch {
	case tag != slug.Of(tag) || tag == "":
		return hw.Word(hw.FaultChoice, strconv.Quote(tag), "lower-case letters, digits and single dashes")
	case !hasLetter(tag):
		return hw.Word(hw.FaultChoice, strconv.Quote(tag), "a tag with a letter: numbers are Yembo's own")
	case err == nil && taken:
		return hw.Word(hw.FaultDuplicate, strconv.Quote(tag), "another machine has it")
	}
	return ""
}

// ChangeTag gives a machine another tag; was is the one that was looked at. Its address does
// not change, and what led to it by the old tag leads nowhere any more. The error is hw.Faults
// for a tag that cannot be, ErrChanged where somebody gave it another meanwhile.
func (s *Jobs) ChangeTag(ctx context.Context, a base.Actor, token, ref, was, tag string) error {
	tag = strings.TrimSpace(tag)
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Machine(ref)
		switch {
		case err != nil:
			return "", err
		case row.Tag != was:
			return "", base.ErrChanged
		case tag == was:
			return row.ID, nil
		}
		if fault := tagFault(tx, tag); fault != "" {
			return "", hw.Faults{{Pointer: "/tag", Text: fault}}
		}
		before := row.Doc
		if err := s.setTag(tx, &row, tag); err != nil {
			return "", err
		}
		return row.ID, s.Note(tx, a, base.KindMachine, row.ID, "the tag is "+tag+", it was "+was, before)
	})
	return err
}

func (s *Jobs) setTag(tx store.Tx, row *store.Machine, tag string) error {
	var m hw.Machine
	if err := json.Unmarshal(row.Doc, &m); err != nil {
		return err
	}
	row.Tag, m.ID = tag, tag
	return s.SaveMachineIn(tx, row, &m)
}
