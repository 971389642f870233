// Package ui carries what the pages are made of: templates and the built styles,
// scripts, fonts and icons. Built files are committed, so that running Yembo needs
// Go alone; make assets builds them anew.
package ui

import "embed"

// Templates are the page templates, a folder an area; what several areas use is in kit.
//
//go:embed templates
var Templates embed.FS

// Static are the files served as they are: what is built, and the pages' own scripts.
//
//go:embed static scripts
var Static embed.FS
