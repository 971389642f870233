package slug

import "testing"

// TestMake: a name of any script makes an id that the schemas take, and never an empty one.
func TestMake(t *testing.T) {
	for name, want := range map[string]string{
		"Tarn Veterinary Practice": "tarn-veterinary-practice", "Ömer Çelik": "omer-celik", "Žofie": "zofie",
		"Марина": "marina", "Straße 7_b": "strasse-7-b",
		"北川": "bei-chuan", " -- ": "thing", "": "thing", "L'Anse & Söhne": "lanse-and-sohne",
		"a very long name indeed of a firm": "a-very-long-name-indeed-of",
	} {
		if got := Make(name, "thing"); got != want {
			t.Errorf("%q makes %q, not %q", name, got, want)
		}
	}
}
