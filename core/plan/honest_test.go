package plan

import (
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestHonest: what gains nothing, and what is not known, is said before any option.
func TestHonest(t *testing.T) {
	base := func() (Input, *Plan) {
		return Input{Parts: &hw.Parts{Currency: "EUR"}, Request: &hw.Request{},
			Chassis: &hw.Chassis{Slots: []hw.Slot{{ID: "m2a", Purpose: "storage", Gen: hw.Known(3),
				Protocols: []hw.Interface{"nvme"}}}, Steps: []hw.Step{{ID: "shield", Verb: "lift", Part: "shield"}}},
			Machine: &hw.Machine{Fitted: hw.Fitted{Drives: []hw.FittedDrive{{Place: "m2a",
				Drive:  hw.Drive{Interface: "nvme", Gen: hw.Known(3), Capacity: hw.Known(hw.DecOf(500))},
				UsedGB: hw.Known(hw.DecOf(450))}}}}}, &Plan{}
	}
	for name, c := range map[string]struct {
		change func(in *Input, p *Plan)
		want   string
	}{
		"access point": {func(in *Input, _ *Plan) {
			in.Request.Goals.Wireless, in.Request.Practice.AccessPoint = hw.Known[hw.Standard]("wifi6"),
				hw.Known[hw.Standard]("wifi5")
		}, "The access point has Wi-Fi 5: a card with Wi-Fi 6 gains nothing"},
		"access point, the shop's own": {func(in *Input, _ *Plan) {
			in.Request.Goals.Wireless, in.Request.Practice.AccessPoint = hw.Known[hw.Standard]("wifi6"),
				hw.Known[hw.Standard]("wifi5")
			in.GuessedAP = true
		}, "The shop's access point, which stands in for the customer's, has Wi-Fi 5"},
		"generation": {func(in *Input, _ *Plan) { in.Request.Goals.StorageGB = hw.Known(hw.DecOf(1000)) },
			"A newer generation than 3 gains nothing in m2a"},
		"full": {func(in *Input, _ *Plan) {
			in.Request.Goals.StorageGB = hw.Known(hw.DecOf(1000))
			in.Machine.Usage.DiskGrowth = hw.Known(hw.DecOf(10))
		}, "The drive in m2a is 90 % full and fills by 10 GB a month: full in 5 months."},
		"shield": {func(_ *Input, p *Plan) {
			p.Rejected = []Rejected{{Part: "x", Place: "dimm1", Code: "unknown", Step: "shield"}}
		}, "Not known of dimm1 until this is done: lift the shield."},
	} {
		in, p := base()
		c.change(&in, p)
		if got := strings.Join(Honest(in, p), " "); !strings.Contains(got, c.want) {
			t.Errorf("%s: %q does not say %q", name, got, c.want)
		}
	}
	if got := Honest(base()); len(got) > 0 {
		t.Errorf("where nothing has to be said: %q", got)
	}
}
