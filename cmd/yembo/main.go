// Command yembo plans upgrades of notebooks and mini PCs. Its verbs read and print
// the open documents; demo and serve start the web application.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/alecthomas/kong"
)

type commands struct {
	Demo  demoCmd  `cmd:"" help:"Start the application on demo data."`
	Serve serveCmd `cmd:"" help:"Start the application on a data folder."`

	Plan     planCmd     `cmd:"" help:"Plan the upgrades of one machine; prints yembo.plan/1."`
	Runsheet runsheetCmd `cmd:"" help:"Print the order of work for some places; prints yembo.runsheet/1."`
	Read     readCmd     `cmd:"" help:"Read what a machine's own tools report; prints yembo.observed/1."`
	Verify   verifyCmd   `cmd:"" help:"Compare what should be fitted with what a machine reports; prints yembo.differences/1."`
	Week     weekCmd     `cmd:"" help:"Work out who does what, where and when; prints yembo.schedule/1."`
	Export   exportCmd   `cmd:"" help:"Print a model record of a data folder, or write many with their photos as a zip."`
	Import   importCmd   `cmd:"" help:"Import model records into a data folder from documents or zips."`
	Backup   backupCmd   `cmd:"" help:"Copy a data folder into one file, also while it is served."`
	Restore  restoreCmd  `cmd:"" help:"Restore a copy into a data folder; what was there is kept next to it."`
	People   peopleCmd   `cmd:"" help:"Who works here: list, add, give a password; for the one who is locked out."`
	Journal  journalCmd  `cmd:"" help:"Print the journal of a data folder: who signed in, rights, exports, copies."`
	Supplier supplierCmd `cmd:"" help:"Start a simulated supplier's service, for trying out."`
	Licences licencesCmd `cmd:"" help:"Print the licences of all that ships in the program."`
	Check    checkCmd    `cmd:"" help:"Check a data folder for damage."`
	Decode   decodeCmd   `cmd:"" help:"Read memory labels and M.2 size codes; prints one JSON object a line."`
}

// fault is an input that cannot be taken: exit 2.
type fault struct {
	file string
	err  error
}

func (f fault) Error() string { return f.file + ": " + f.err.Error() }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

func run(ctx context.Context, args []string) int {
	var cli commands
	parser, err := kong.New(&cli, kong.Name("yembo"), kong.BindTo(ctx, (*context.Context)(nil)),
		kong.Description("Plans upgrades of notebooks and mini PCs."))
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 2
	}
	parsed, err := parser.Parse(args)
	if err != nil {
		fmt.Fprintln(os.Stderr, "yembo:", err)
		return 2
	}
	if err := parsed.Run(); err != nil {
		printError(err)
		var no failed
		if errors.As(err, &no) {
			return 1
		}
		return 2
	}
	return 0
}

// printError prints each fault on its own line, with the file in front.
func printError(err error) {
	var no failed
	if errors.As(err, &no) {
		err = no.err
	}
	var f fault
	if errors.As(err, &f) {
		for _, line := range faultLines(f.err) {
			fmt.Fprintf(os.Stderr, "%s: %s\n", f.file, line)
		}
		return
	}
	fmt.Fprintln(os.Stderr, "yembo:", err)
}
