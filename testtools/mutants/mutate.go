package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
)

// mutant is one small change of a file, by offset.
type mutant struct {
	file       string // below the module's folder
	line       int
	at, to     int // offsets of what is replaced
	is, was    string
	enclosedBy string // the function in which it lies
}

func (m mutant) name() string {
	return fmt.Sprintf("%s:%d %s: %s → %s", filepath.Base(m.file), m.line, m.enclosedBy, m.is, m.was)
}

// swaps are the operators that are taken for each other.
var swaps = map[token.Token]string{token.LSS: "<=", token.LEQ: "<", token.GTR: ">=", token.GEQ: ">", token.EQL: "!=", token.NEQ: "==",
	token.ADD: "-", token.SUB: "+", token.MUL: "/", token.QUO: "*", token.LAND: "||", token.LOR: "&&"}

// mutantsOf are all small changes of a package's files that this program knows: an operator taken for its neighbour, a number a tenth or
// one larger, true for false, a condition turned round, a statement left out.
func mutantsOf(root, pkg string) ([]mutant, error) {
	files, err := filepath.Glob(filepath.Join(root, pkg, "*.go"))
	if err != nil {
		return nil, err
	}
	var all []mutant
	for _, path := range files {
		if strings.HasSuffix(path, "_test.go") {
			continue
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return nil, err
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, path, raw, 0)
		if err != nil {
			return nil, err
		}
		for _, d := range f.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok || fn.Body == nil {
				continue
			}
			add := func(from, to token.Pos, was string) {
				at, end := set.Position(from).Offset, set.Position(to).Offset
				is := string(raw[at:end])
				if strings.Contains(is, "\n") {
					is = strings.SplitN(is, "\n", 2)[0] + " …"
				}
				all = append(all, mutant{filepath.ToSlash(filepath.Join(pkg, filepath.Base(path))), set.Position(from).Line, at, end, is,
					was, fn.Name.Name})
			}
			ast.Inspect(fn.Body, func(n ast.Node) bool { return change(n, add) })
		}
	}
	sort.Slice(all, func(i, k int) bool {
		a, b := all[i], all[k]
		return a.file < b.file || a.file == b.file && (a.at < b.at || a.at == b.at && a.was < b.was)
	})
	return all, nil
}

// change adds the changes of one node; false: what is in it stays as it is.
func change(n ast.Node, add func(from, to token.Pos, was string)) bool {
	switch x := n.(type) {
	case *ast.BinaryExpr:
		if was := swaps[x.Op]; was != "" && !words(x) {
			add(x.OpPos, x.OpPos+token.Pos(len(x.Op.String())), was)
		}
	case *ast.BasicLit:
		switch x.Kind {
		case token.FLOAT:
			if v, err := strconv.ParseFloat(strings.ReplaceAll(x.Value, "_", ""), 64); err == nil {
				add(x.Pos(), x.End(), strconv.FormatFloat(v*1.1+map[bool]float64{true: 1}[v == 0], 'g', -1, 64))
			}
		case token.INT:
			if v, err := strconv.Atoi(x.Value); err == nil {
				add(x.Pos(), x.End(), strconv.Itoa(v+1))
			}
		}
	case *ast.Ident:
		if was := map[string]string{"true": "false", "false": "true"}[x.Name]; was != "" {
			add(x.Pos(), x.End(), was)
		}
	case *ast.UnaryExpr:
		if x.Op == token.NOT {
			add(x.OpPos, x.OpPos+1, "")
		}
	case *ast.BlockStmt:
		for _, s := range x.List {
			left(s, add)
		}
	case *ast.CaseClause:
		for _, s := range x.Body {
			left(s, add)
		}
	}
	return true
}

// left leaves a statement out: a call, or an assignment to something that is there already.
func left(s ast.Stmt, add func(from, to token.Pos, was string)) {
	switch x := s.(type) {
	case *ast.ExprStmt:
		add(x.Pos(), x.End(), "")
	case *ast.AssignStmt:
		if x.Tok != token.DEFINE {
			add(x.Pos(), x.End(), "")
		}
	case *ast.IncDecStmt:
		add(x.Pos(), x.End(), "")
	}
}

// words tells whether an operator joins texts, whose wording no test is asked to hold.
func words(x *ast.BinaryExpr) bool {
	text := false
	ast.Inspect(x, func(n ast.Node) bool {
		if l, ok := n.(*ast.BasicLit); ok && l.Kind == token.STRING && x.Op == token.ADD {
			text = true
		}
		return true
	})
	return text
}
