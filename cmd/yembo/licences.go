package main

import (
	_ "embed"
	"fmt"
)

// licences are those of all that ships in the program; scripts/licences.sh writes the file, and make check holds it.
//
//go:embed licences.txt
var licences string

type licencesCmd struct{}

// Run prints them.
func (licencesCmd) Run() error {
	_, err := fmt.Print(licences)
	return err
}
