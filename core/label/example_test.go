package label_test

import (
	"fmt"
	"strings"

	"yembo/core/label"
)

// What stands on a module, and the code on an M.2 drive.
func ExampleDecode() {
	for _, text := range []string{"16GB 2Rx8 PC4-3200AA-SE1-11", "2280-D5-M", "16GB 2Rx7"} {
		got, err := label.Decode(text)
		switch x := got.(type) {
		case *label.Memory:
			fmt.Println("memory", x.Capacity.Or(0), "GB", x.Type, x.Ranks.Or(0), "ranks")
		case *label.M2:
			fmt.Println("M.2", x.Length, "mm long, key", x.Keys)
		}
		if err != nil {
			said, _, _ := strings.Cut(err.Error(), ";")
			fmt.Println(said)
		}
	}
	// Output:
	// memory 16 GB DDR4 2 ranks
	// M.2 80 mm long, key [M]
	// column 6: "2Rx7" cannot be read
}
