package yembo

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"yembo/shop/billing"
	"yembo/shop/jobs"
	"yembo/shop/stock"

	"yembo/core/card"
	"yembo/core/grade"
	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/proof"
	"yembo/core/quote"
	"yembo/core/run"
	"yembo/core/week"
)

// A kind is a type whose constants are all the values that it has, by package and name.
type kind struct{ pkg, name string }

// source is what the tables and switches of the project say of its kinds.
type source struct {
	fset   *token.FileSet
	files  map[string]*ast.File
	consts map[kind][]string // as they are named elsewhere: "hw.Lift"
	of     map[string]kind   // the kind of a constant
}

// readSource parses the code of the project, tests left out.
func readSource(t *testing.T) *source {
	t.Helper()
	s := &source{token.NewFileSet(), map[string]*ast.File{}, map[kind][]string{}, map[string]kind{}}
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		s.files[path], err = parser.ParseFile(s.fset, path, nil, 0)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range s.files {
		for _, d := range f.Decls {
			if g, ok := d.(*ast.GenDecl); ok && g.Tok == token.CONST {
				s.readConstants(f.Name.Name, g)
			}
		}
	}
	return s
}

func (s *source) readConstants(pkg string, g *ast.GenDecl) {
	last := ""
	for _, spec := range g.Specs {
		v := spec.(*ast.ValueSpec)
		if id, ok := v.Type.(*ast.Ident); ok {
			last = id.Name
		} else if v.Type != nil || len(v.Values) > 0 {
			last = ""
		}
		if last == "" || last == strings.ToLower(last) { // no type of its own
			continue
		}
		k := kind{pkg, last}
		for _, n := range v.Names {
			s.consts[k] = append(s.consts[k], pkg+"."+n.Name)
			s.of[pkg+"."+n.Name] = k
		}
	}
}

// constant is the constant that an expression of a package names, "" for none.
func (s *source) constant(pkg string, e ast.Node) string {
	name := ""
	switch e := e.(type) {
	case *ast.Ident:
		name = pkg + "." + e.Name
	case *ast.SelectorExpr:
		if x, ok := e.X.(*ast.Ident); ok {
			name = x.Name + "." + e.Sel.Name
		}
	}
	if _, ok := s.of[name]; ok {
		return name
	}
	return ""
}

// tables are the tables that have a row for each constant of a kind.
var tables = map[string]kind{
	"hw.Builds": {"hw", "Build"}, "hw.Cautions": {"hw", "CautionCode"}, "hw.Codes": {"hw", "Code"}, "hw.Consents": {"hw", "Consent"},
	"hw.Coolings": {"hw", "Cooling"}, "hw.ECCUses": {"hw", "ECCUse"}, "hw.RotationalUses": {"hw", "RotationalUse"},
	"hw.ClockedUses": {"hw", "ClockedUse"},
	"hw.DriveForms":  {"hw", "DriveForm"}, "hw.FixingsFrom": {"hw", "FixingFrom"},
	"hw.LimitPractices": {"hw", "LimitPractice"}, "hw.Migrations": {"hw", "MigrationHow"}, "hw.Origins": {"hw", "Origin"},
	"hw.Pairings": {"hw", "Pairing"}, "hw.PartKinds": {"hw", "PartKind"}, "shelf.groupNames": {"hw", "PartKind"},
	"draw.placeShapes": {"hw", "PlaceKind"}, "hw.placeLists": {"hw", "PlaceKind"}, "hw.placeSays": {"hw", "PlaceKind"},
	"hw.Purposes": {"hw", "Purpose"}, "hw.Quirks": {"hw", "Quirk"}, "hw.Refusals": {"hw", "Refusal"}, "hw.Sides": {"hw", "Side"},
	"hw.Sources": {"hw", "Source"}, "hw.Towards": {"hw", "Toward"}, "hw.FacesWays": {"hw", "Faces"},
	"grade.Kinds":     {"grade", "Kind"},
	"hw.LoosenOrders": {"hw", "LoosenOrder"}, "hw.Verbs": {"hw", "Verb"}, "card.TrialWhens": {"card", "TrialWhen"},
	"draw.saysPiece": {"draw", "PieceState"}, "money.Kinds": {"money", "Kind"}, "proof.Table": {"proof", "Code"},
	"proof.Froms": {"proof", "From"}, "proof.Judgeds": {"proof", "Judged"}, "quote.OldPartsWays": {"quote", "OldParts"},
	"quote.Whens": {"quote", "When"}, "run.Rests": {"run", "Rest"}, "run.Whats": {"run", "What"}, "jobs.GoesWays": {"jobs", "Goes"},
	"stock.MoveKinds": {"stock", "MoveKind"}, "bench.needWords": {"work", "NeedKind"}, "counter.spanWords": {"jobs", "SpanKind"},
	"jobs.Stations": {"jobs", "StationID"},
}

// TestEveryConstantHasItsRow: whoever adds a verb, a code, a kind of place or any other value adds its row
// to each table that has one for the others.
func TestEveryConstantHasItsRow(t *testing.T) {
	s := readSource(t)
	rows := map[string]map[string]bool{}
	for _, f := range s.files {
		for _, d := range f.Decls {
			g, ok := d.(*ast.GenDecl)
			if !ok || g.Tok != token.VAR {
				continue
			}
			for _, spec := range g.Specs {
				v := spec.(*ast.ValueSpec)
				table := f.Name.Name + "." + v.Names[0].Name
				if _, ok := tables[table]; !ok {
					continue
				}
				rows[table] = map[string]bool{}
				for _, value := range v.Values {
					ast.Inspect(value, func(n ast.Node) bool {
						if c := s.constant(f.Name.Name, n); c != "" {
							rows[table][c] = true
						}
						return true
					})
				}
			}
		}
	}
	for table, k := range tables {
		if len(s.consts[k]) < 2 {
			t.Errorf("%s.%s has %d constants: is it still a kind?", k.pkg, k.name, len(s.consts[k]))
		}
		for _, c := range s.consts[k] {
			if !rows[table][c] {
				t.Errorf("%s has no row for %s", table, c)
			}
		}
	}
}

// vocabularies are the lists of words that documents and pages share.
var vocabularies = map[string]any{
	"hw.DriveInterfaces": hw.DriveInterfaces, "hw.CardInterfaces": hw.CardInterfaces,
	"hw.Builds": hw.Builds, "hw.MemoryTypes": hw.MemoryTypes, "hw.ModuleForms": hw.ModuleForms,
	"hw.Purposes": hw.Purposes, "hw.Refusals": hw.Refusals, "hw.Coolings": hw.Coolings, "hw.ECCUses": hw.ECCUses,
	"hw.RotationalUses": hw.RotationalUses, "hw.Towards": hw.Towards,
	"hw.FacesWays": hw.FacesWays, "grade.Kinds": grade.Kinds, "hw.LoosenOrders": hw.LoosenOrders,
	"hw.ClockedUses": hw.ClockedUses,
	"hw.DriveForms":  hw.DriveForms, "hw.Standards": hw.Standards, "hw.Connectors": hw.Connectors,
	"hw.Sides": hw.Sides, "hw.Quirks": hw.Quirks, "hw.Sources": hw.Sources, "hw.PartKinds": hw.PartKinds,
	"hw.Origins": hw.Origins, "hw.LimitPractices": hw.LimitPractices, "hw.Pairings": hw.Pairings,
	"hw.Migrations": hw.Migrations, "hw.FixingsFrom": hw.FixingsFrom, "hw.PartitionTables": hw.PartitionTables,
	"hw.HeldTerms": hw.HeldTerms, "hw.Cautions": hw.Cautions, "proof.Whats": proof.Whats, "proof.Froms": proof.Froms,
	"proof.Judgeds": proof.Judgeds, "quote.OldPartsWays": quote.OldPartsWays, "quote.Whens": quote.Whens,
	"run.Rests": run.Rests, "run.Whats": run.Whats, "money.Kinds": money.Kinds, "card.TrialWhens": card.TrialWhens,
	"stock.MoveKinds": stock.MoveKinds, "jobs.GoesWays": jobs.GoesWays, "billing.AnswerWays": billing.AnswerWays,
	"jobs.Stations": jobs.Stations, "billing.PaidHows": billing.PaidHows,
	"week.Dos": week.Dos, "week.Splits": week.Splits, "week.States": week.States, "week.Reasons": week.Reasons,
	"week.NoPlaces": week.NoPlaces, "week.PinCodes": week.PinCodes, "week.TellCodes": week.TellCodes,
}

// TestVocabularies: each word is there once and says what it is in words of its own.
func TestVocabularies(t *testing.T) {
	for name, list := range vocabularies {
		v := reflect.ValueOf(list)
		words, says := map[string]bool{}, map[string]bool{}
		for i := range v.Len() {
			word, said := v.Index(i).FieldByName("Word").String(), v.Index(i).FieldByName("Says").String()
			if strings.TrimSpace(word) == "" || strings.TrimSpace(said) == "" {
				t.Errorf("%s: the word %q says %q", name, word, said)
			}
			if words[word] || says[said] {
				t.Errorf("%s has %q, %q twice", name, word, said)
			}
			words[word], says[said] = true, true
		}
	}
	for _, f := range readSource(t).files {
		for _, d := range f.Decls {
			g, ok := d.(*ast.GenDecl)
			if !ok || g.Tok != token.VAR {
				continue
			}
			for _, spec := range g.Specs {
				v := spec.(*ast.ValueSpec)
				name := f.Name.Name + "." + v.Names[0].Name
				if len(v.Values) == 1 && isVocabulary(v.Values[0]) && ast.IsExported(v.Names[0].Name) && vocabularies[name] == nil {
					t.Errorf("the vocabulary %s is in no test", name)
				}
			}
		}
	}
}

// isVocabulary reports whether an expression is a literal of a hw.Vocabulary.
func isVocabulary(e ast.Expr) bool {
	lit, ok := e.(*ast.CompositeLit)
	if !ok {
		return false
	}
	index, ok := lit.Type.(*ast.IndexExpr)
	if !ok {
		return false
	}
	switch x := index.X.(type) {
	case *ast.Ident:
		return x.Name == "Vocabulary"
	case *ast.SelectorExpr:
		return x.Sel.Name == "Vocabulary"
	}
	return false
}

// TestSwitchesAreWhole: a switch over constants of a kind names each of them, also those of which nothing
// follows. So a constant that is added asks in every place what is to follow from it.
func TestSwitchesAreWhole(t *testing.T) {
	s := readSource(t)
	seen := 0
	for _, f := range s.files {
		ast.Inspect(f, func(n ast.Node) bool {
			sw, ok := n.(*ast.SwitchStmt)
			if !ok || sw.Tag == nil {
				return true
			}
			var k kind
			var named []string
			for _, clause := range sw.Body.List {
				for _, e := range clause.(*ast.CaseClause).List {
					if c := s.constant(f.Name.Name, e); c != "" {
						k, named = s.of[c], append(named, c)
					}
				}
			}
			if len(named) == 0 {
				return true
			}
			seen++
			for _, c := range s.consts[k] {
				if !slices.Contains(named, c) {
					t.Errorf("%s: the switch says nothing of %s", s.fset.Position(sw.Pos()), c)
				}
			}
			return true
		})
	}
	if seen < 30 {
		t.Errorf("only %d switches were looked at", seen)
	}
}
