package doc

import (
	"encoding/json"
	"testing"
)

// TestTree sets, clears and lists fields by path, and leaves alone what is not named.
func TestTree(t *testing.T) {
	tree := Of(map[string]any{"id": "m",
		"memory": map[string]any{"channels": 2, "sockets": []any{map[string]any{"id": "d1", "reach": "lid"}}},
		"bays":   []any{}})
	tree.Set("memory/type", "DDR4")
	tree.Set("memory/limits/maker_gb", 24)
	tree.Set("memory/limits/proven_gb", 40)
	tree.Set("memory/limits/maker_gb", nil)
	tree.Set("memory/limits/proven_gb", nil) // the empty object goes too
	tree.Set("fixing/bit", nil)              // nothing is made to be emptied
	tree.Add("slots", Tree{"id": "m2a"})
	tree.Add("memory/sockets", Tree{"id": "d2"})
	tree.Item("memory/sockets", "d1").Set("reach", nil)
	tree.Drop("memory/sockets", "d2")
	tree.Drop("slots", "none")
	tree.Drop("batteries", "none")
	raw, _ := json.Marshal(tree)
	if want := `{"bays":[],"id":"m","memory":{"channels":2,"sockets":[{"id":"d1"}],"type":"DDR4"},"slots":[{"id":"m2a"}]}`; string(
		raw,
	) != want {
		t.Errorf("%s", raw)
	}
	if tree.Item("slots", "m2b") != nil || tree.Get("memory/channels") != json.Number("2") ||
		tree.Get("no/such/path") != nil || len(tree.List("memory")) != 0 {
		t.Error("what is not there is found")
	}
	var back struct{ ID int }
	if tree.Into(&back) == nil {
		t.Error("a text goes into a number")
	}
}
