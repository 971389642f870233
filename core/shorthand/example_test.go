package shorthand_test

import (
	"fmt"
	"strings"

	"yembo/core/hw"
	"yembo/core/shorthand"
)

// Two lines of what is seen in a machine, and one with a word that is not known.
func ExampleParse() {
	name := func(text string) string { return strings.ReplaceAll(strings.ToLower(text), " ", "-") }
	lines := shorthand.Parse("m2a 2242 2280 g4 x4 nvme keyM\nm2b nvmee", nil, shorthand.Source{Name: hw.Bench}, name)
	for _, line := range lines {
		for _, word := range line.Words {
			if word.Fault != nil {
				fmt.Printf("line %d, column %d: %s, perhaps %s\n", word.Fault.Line, word.Fault.Col, word.Fault.Got, word.Fault.Near)
			}
		}
		fmt.Println(line.Number, len(line.Words), "words")
	}
	// Output:
	// 1 7 words
	// line 2, column 5: nvmee is not a word of slot, perhaps nvme
	// 2 2 words
}
