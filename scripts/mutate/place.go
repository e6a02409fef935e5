package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// place is something in a source file that can be changed by one mutation.
type place struct {
	File     string // from the root of the module
	Line     int
	Func     string // that it is in; empty for a declaration
	From, To int    // offsets in bytes of what is replaced
	Old, New string
}

// name tells a place without its line, so that it stays the same while other lines move.
func (p place) name() string {
	return fmt.Sprintf("%s %s: %s -> %s", p.File, p.Func, oneLine(p.Old), oneLine(p.New))
}

func oneLine(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if len(s) > 90 {
		s = s[:87] + "..."
	}
	return s
}

// swaps are what an operator becomes: comparisons lose their limit or are turned round, sums change their sign.
var swaps = map[token.Token][]token.Token{
	token.LSS: {token.LEQ}, token.LEQ: {token.LSS}, token.GTR: {token.GEQ}, token.GEQ: {token.GTR},
	token.EQL: {token.NEQ}, token.NEQ: {token.EQL},
	token.LAND: {token.LOR}, token.LOR: {token.LAND},
	token.ADD: {token.SUB}, token.SUB: {token.ADD}, token.MUL: {token.QUO}, token.QUO: {token.MUL},
	token.REM: {token.MUL}, token.AND: {token.OR}, token.OR: {token.AND},
	token.ADD_ASSIGN: {token.SUB_ASSIGN}, token.SUB_ASSIGN: {token.ADD_ASSIGN},
	token.MUL_ASSIGN: {token.QUO_ASSIGN}, token.QUO_ASSIGN: {token.MUL_ASSIGN},
	token.INC: {token.DEC}, token.DEC: {token.INC},
}

// placesIn lists the mutable places of the Go files below folders, tests and what is generated apart, in the order of
// their files and lines.
func placesIn(root string, folders ...string) ([]place, error) {
	var out []place
	for _, folder := range folders {
		err := filepath.WalkDir(filepath.Join(root, folder), func(path string, e os.DirEntry, err error) error {
			name := e.Name()
			if err != nil || e.IsDir() && (name == "testdata" || strings.HasSuffix(name, "test")) {
				if err == nil {
					err = filepath.SkipDir
				}
				return err
			}
			if e.IsDir() || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
				return nil
			}
			rel, err := filepath.Rel(root, path)
			if err != nil {
				return err
			}
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			of, err := placesOf(filepath.ToSlash(rel), text)
			out = append(out, of...)
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// placesOf lists the mutable places of one file.
func placesOf(file string, text []byte) ([]place, error) {
	fset := token.NewFileSet()
	parsed, err := parser.ParseFile(fset, file, text, parser.ParseComments|parser.SkipObjectResolution)
	if err != nil {
		return nil, err
	}
	if ast.IsGenerated(parsed) {
		return nil, nil
	}
	f := finder{file: file, text: text, fset: fset}
	for _, d := range parsed.Decls {
		switch d := d.(type) {
		case *ast.FuncDecl:
			f.fn = d.Name.Name
			if d.Recv != nil && len(d.Recv.List) == 1 {
				f.fn = f.source(d.Recv.List[0].Type) + "." + f.fn
			}
			f.see(d.Body)
		case *ast.GenDecl:
			if d.Tok == token.VAR || d.Tok == token.CONST {
				f.fn = ""
				f.see(d)
			}
		}
	}
	slices.SortFunc(f.places, func(x, y place) int {
		if x.From != y.From {
			return x.From - y.From
		}
		return strings.Compare(x.New, y.New)
	})
	return f.places, nil
}

type finder struct {
	file, fn string
	text     []byte
	fset     *token.FileSet
	places   []place
}

func (f *finder) source(n ast.Node) string {
	return string(f.text[f.fset.Position(n.Pos()).Offset:f.fset.Position(n.End()).Offset])
}

// replace notes that what stands from one position to another can become something else.
func (f *finder) replace(from, to token.Pos, with string) {
	at, end := f.fset.Position(from), f.fset.Position(to).Offset
	f.places = append(f.places, place{File: f.file, Line: at.Line, Func: f.fn, From: at.Offset, To: end,
		Old: string(f.text[at.Offset:end]), New: with})
}

// swap replaces an operator. What is shown as old and new has the operands, so that a place is known by its name.
func (f *finder) swap(whole ast.Node, pos token.Pos, is token.Token) {
	start, end := f.fset.Position(whole.Pos()), f.fset.Position(whole.End()).Offset
	op := f.fset.Position(pos).Offset
	for _, to := range swaps[is] {
		f.places = append(f.places, place{File: f.file, Line: f.fset.Position(pos).Line, Func: f.fn, From: start.Offset,
			To: end, Old: string(f.text[start.Offset:end]),
			New: string(f.text[start.Offset:op]) + to.String() + string(f.text[op+len(is.String()):end])})
	}
}

func (f *finder) see(n ast.Node) {
	if n == nil {
		return
	}
	ast.Inspect(n, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.BinaryExpr:
			if !isText(n) {
				f.swap(n, n.OpPos, n.Op)
			}
		case *ast.AssignStmt:
			if len(n.Rhs) == 1 && !isText(n.Rhs[0]) {
				f.swap(n, n.TokPos, n.Tok)
			}
		case *ast.IncDecStmt:
			f.swap(n, n.TokPos, n.Tok)
		case *ast.UnaryExpr:
			if n.Op == token.NOT {
				f.replace(n.Pos(), n.X.Pos(), "")
			}
			if n.Op == token.SUB {
				f.replace(n.Pos(), n.X.Pos(), "+")
			}
		case *ast.Ident:
			switch n.Name {
			case "true":
				f.replace(n.Pos(), n.End(), "false")
			case "false":
				f.replace(n.Pos(), n.End(), "true")
			}
		case *ast.BasicLit:
			f.number(n)
		case *ast.IfStmt:
			f.branch(n)
		case *ast.BranchStmt:
			if n.Label == nil && n.Tok == token.CONTINUE {
				f.replace(n.Pos(), n.End(), "break")
			}
		case *ast.ExprStmt:
			if _, call := n.X.(*ast.CallExpr); call {
				f.replace(n.Pos(), n.End(), "_ = 0")
			}
		case *ast.ArrayType: // its length is no number of the trade
			if n.Len != nil {
				return false
			}
		case *ast.StructType, *ast.InterfaceType, *ast.ImportSpec:
			return false
		}
		return true
	})
}

// branch takes a branch the other way. An error that is handed on is dropped instead.
func (f *finder) branch(n *ast.IfStmt) {
	cond := f.source(n.Cond)
	if cond == "err != nil" {
		f.replace(n.Cond.Pos(), n.Cond.End(), "err != nil && false")
		return
	}
	if _, compares := n.Cond.(*ast.BinaryExpr); !compares { // else its operator is a place
		f.replace(n.Cond.Pos(), n.Cond.End(), "!("+cond+")")
	}
	if n.Else == nil && n.Init == nil && len(n.Body.List) > 0 {
		f.replace(n.Cond.Pos(), n.Cond.End(), "false && ("+cond+")")
	}
}

// number moves a number by its last figure.
func (f *finder) number(n *ast.BasicLit) {
	switch n.Kind {
	case token.INT:
		if v, err := strconv.ParseInt(n.Value, 10, 64); err == nil {
			f.replace(n.Pos(), n.End(), strconv.FormatInt(v+1, 10))
		}
	case token.FLOAT:
		if v, err := strconv.ParseFloat(n.Value, 64); err == nil {
			f.replace(n.Pos(), n.End(), strconv.FormatFloat(v*1.01+0.001, 'g', 12, 64))
		}
	}
}

// isText reports whether an operand is plainly text, which has no sum but the joining.
func isText(x ast.Expr) bool {
	switch x := x.(type) {
	case *ast.BasicLit:
		return x.Kind == token.STRING
	case *ast.BinaryExpr:
		return x.Op == token.ADD && (isText(x.X) || isText(x.Y))
	case *ast.ParenExpr:
		return isText(x.X)
	}
	return false
}
