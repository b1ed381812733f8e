package svg

import (
	"strconv"
	"strings"
)

// pseudo is a structural pseudo-class (Selectors 3, 6.6.5): the element is one of a n + b among its kin.
type pseudo struct {
	name   string
	a, b   int
	ofType bool
	last   bool // counted from the end
	only   bool
	not    *compound
}

// plain reads a pseudo-class without an argument.
func (p *pseudo) plain() bool {
	switch p.name {
	case "root", "empty":
		return true
	}
	kind, of, ok := strings.Cut(p.name, "-")
	p.b, p.ofType, p.last, p.only = 1, of == "of-type", kind == "last", kind == "only"
	return ok && (kind == "first" || kind == "last" || kind == "only") && (of == "child" || of == "of-type")
}

// read reads the argument of one that has one.
func (p *pseudo) read(in string) bool {
	if p.name == "not" {
		sel, ok := selector(in)
		if !ok || len(sel) != 1 {
			return false
		}
		p.not = &sel[0]
		return true
	}
	of, ok := strings.CutPrefix(p.name, "nth-")
	if rest, from := strings.CutPrefix(of, "last-"); from {
		of, p.last = rest, true
	}
	if p.ofType = of == "of-type"; !ok || !p.ofType && of != "child" {
		return false
	}
	in = strings.ToLower(strings.Join(strings.Fields(in), ""))
	switch in {
	case "odd":
		in = "2n+1"
	case "even":
		in = "2n"
	}
	var err error
	if a, b, ok := strings.Cut(in, "n"); ok {
		switch a {
		case "", "+":
			p.a = 1
		case "-":
			p.a = -1
		default:
			p.a, err = strconv.Atoi(a)
		}
		if b != "" && err == nil {
			p.b, err = strconv.Atoi(b)
		}
	} else {
		p.b, err = strconv.Atoi(in)
	}
	return err == nil
}

func (p pseudo) holds(n *node) bool {
	switch {
	case p.not != nil:
		return !n.is(*p.not)
	case p.name == "root":
		return n.up == nil
	case p.name == "empty":
		return len(n.children) == 0
	case n.up == nil:
		return false
	}
	before, after := n.at, len(n.up.children)-1-n.at
	if p.ofType {
		before, after = n.kin[0], n.kin[1]
	}
	if p.only {
		return before+after == 0
	}
	k := before + 1
	if p.last {
		k = after + 1
	}
	if p.a == 0 {
		return k == p.b
	}
	return (k-p.b)%p.a == 0 && (k-p.b)/p.a >= 0
}
