package exchange

import (
	"bytes"
	"encoding/json"
	"runtime"
	"sync"

	"yembo/core/plan"
)

// atOnce is how many options of a plan are printed by one hand before it takes the next ones.
const atOnce = 64

// Write prints a document: two spaces a level, a final line break, the same bytes
// for the same value. A plan with many options is printed by all processors.
func Write(doc any) ([]byte, error) {
	if p, is := doc.(*plan.Plan); is && len(p.Options) > atOnce {
		return writePlan(p)
	}
	var out bytes.Buffer
	err := write(&out, doc, "")
	return out.Bytes(), err
}

func write(out *bytes.Buffer, doc any, prefix string) error {
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	enc.SetIndent(prefix, "  ")
	return enc.Encode(doc)
}

// writePlan prints the options in bundles and puts them where an empty list of them stands. A line break
// and two spaces before the name are the document's own level: no text of a document has a line break.
func writePlan(p *plan.Plan) ([]byte, error) {
	const empty = "\n  \"options\": []"
	rest := *p
	rest.Options = []plan.Option{}
	var frame bytes.Buffer
	if err := write(&frame, &rest, ""); err != nil {
		return nil, err
	}
	before, after, _ := bytes.Cut(frame.Bytes(), []byte(empty))

	bundles := make([]bytes.Buffer, (len(p.Options)+atOnce-1)/atOnce)
	faults := make([]error, len(bundles))
	next := make(chan int)
	var hands sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		hands.Go(func() {
			for n := range next {
				faults[n] = writeOptions(&bundles[n], p.Options[n*atOnce:min((n+1)*atOnce, len(p.Options))])
			}
		})
	}
	size := frame.Len()
	for n := range bundles {
		next <- n
	}
	close(next)
	hands.Wait()
	for n := range bundles {
		if faults[n] != nil {
			return nil, faults[n]
		}
		size += bundles[n].Len() + 2
	}

	out := bytes.NewBuffer(make([]byte, 0, size+len(empty)))
	out.Write(before)
	out.WriteString("\n  \"options\": [\n")
	for n := range bundles {
		if n > 0 {
			out.WriteString(",\n")
		}
		out.Write(bundles[n].Bytes())
	}
	out.WriteString("\n  ]")
	out.Write(after)
	return out.Bytes(), nil
}

func writeOptions(out *bytes.Buffer, options []plan.Option) error {
	for i := range options {
		if i > 0 {
			out.Truncate(out.Len() - 1) // the line break that ends a document
			out.WriteString(",\n")
		}
		out.WriteString("    ")
		if err := write(out, &options[i], "    "); err != nil {
			return err
		}
	}
	out.Truncate(out.Len() - 1)
	return nil
}
