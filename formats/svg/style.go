package svg

import (
	"slices"
	"strings"

	"perigyre/core/model"
)

// declared are the properties that an element sets itself.
type declared map[string]string

// sheet is the rules of all style sheets, found by the last name that an element must have (CSS 2.1, 5 and 6).
type sheet struct {
	rules []rule
	tries int              // of a rule with an element
	by    map[string][]int // "#id", ".class", "name" or "*": numbers of rules, the weakest first
}

type rule struct {
	selector []compound // from the left
	strength [3]int     // ids, classes, names
	set      declared
}

// compound is what one element must be, and how it lies to the next.
type compound struct {
	name, id string
	classes  []string
	attrs    [][3]string // name, "=" or "~=" or "|=" or "", value
	pseudo   []pseudo
	then     byte // ' ' within, '>' directly within, '+' directly after; 0 for the last
}

// read adds the rules of a text.
func (s *sheet) read(text string, left *model.LeftOut) {
	text = withoutComments(text)
	text = strings.NewReplacer("<!--", "", "-->", "").Replace(text)
	same := map[string]int{} // the rule of a selector that was there
	for {
		head, rest, ok := strings.Cut(text, "{")
		if !ok {
			if at := strings.TrimSpace(head); strings.HasPrefix(at, "@") {
				left.Add(firstWord(at) + " in a style sheet")
			}
			return
		}
		// Rules that end in a semicolon come before.
		for {
			at, more, ok := strings.Cut(head, ";")
			if !ok {
				break
			}
			if at = strings.TrimSpace(at); strings.HasPrefix(at, "@") && firstWord(at) != "@charset" {
				left.Add(firstWord(at) + " in a style sheet")
			}
			head = more
		}
		head = strings.TrimSpace(head)
		if strings.HasPrefix(head, "@") {
			left.Add(firstWord(head) + " in a style sheet")
			text = afterBlock(rest)
			continue
		}
		var body string
		body, text, _ = strings.Cut(rest, "}")
		set := declared{}
		set.read(body)
		for _, text := range strings.Split(head, ",") {
			text = strings.TrimSpace(text)
			if k, ok := same[text]; ok && k == len(s.rules)-1 { // again, right after
				merged := declared{}
				merged.add(s.rules[k].set)
				merged.add(set)
				s.rules[k].set = merged
				continue
			}
			if sel, ok := selector(text); ok {
				same[text] = len(s.rules)
				r := rule{selector: sel, set: set}
				for _, c := range sel {
					if c.id != "" {
						r.strength[0]++
					}
					r.strength[1] += len(c.classes) + len(c.attrs)
					for _, p := range c.pseudo {
						if p.not == nil {
							r.strength[1]++
						} else {
							r.strength[0], r.strength[1] = r.strength[0]+one(p.not.id != ""), r.strength[1]+len(p.not.classes)+len(p.not.attrs)+len(p.not.pseudo)
							r.strength[2] += one(p.not.name != "*")
						}
					}
					if c.name != "*" {
						r.strength[2]++
					}
				}
				s.rules = append(s.rules, r)
			} else {
				left.Add("the selector " + text + " of a style sheet")
			}
		}
	}
}

// one is 1 for what is true.
func one(b bool) int {
	if b {
		return 1
	}
	return 0
}

func withoutComments(text string) string {
	if !strings.Contains(text, "/*") {
		return text
	}
	var b strings.Builder
	for {
		head, rest, ok := strings.Cut(text, "/*")
		b.WriteString(head)
		if !ok {
			return b.String()
		}
		if _, text, ok = strings.Cut(rest, "*/"); !ok {
			return b.String()
		}
	}
}

func firstWord(s string) string {
	if k := strings.IndexAny(s, " \t\r\n({\"'"); k > 0 {
		return s[:k]
	}
	return s
}

// afterBlock returns what stands after the end of a block that has begun.
func afterBlock(text string) string {
	depth := 1
	for i := range len(text) {
		switch text[i] {
		case '{':
			depth++
		case '}':
			if depth--; depth == 0 {
				return text[i+1:]
			}
		}
	}
	return ""
}

func isName(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '_' || c >= 0x80
}

// selector reads one, or reports that it cannot be told here, in which case no element is meant.
func selector(text string) ([]compound, bool) {
	text = strings.TrimSpace(text)
	var out []compound
	for i := 0; i < len(text); {
		c := compound{name: "*"}
		begin := i
		word := func() string {
			from := i
			for i < len(text) && isName(text[i]) {
				i++
			}
			return text[from:i]
		}
		if i < len(text) && text[i] == '*' {
			i++
		} else if w := word(); w != "" {
			c.name = w
		}
	parts:
		for i < len(text) {
			switch text[i] {
			case '#':
				i++
				if c.id = word(); c.id == "" {
					return nil, false
				}
			case '.':
				i++
				w := word()
				if w == "" {
					return nil, false
				}
				c.classes = append(c.classes, w)
			case '[':
				end := strings.IndexByte(text[i:], ']')
				if end < 0 {
					return nil, false
				}
				in := text[i+1 : i+end]
				i += end + 1
				name, value, ok := strings.Cut(in, "=")
				how := ""
				if ok {
					how = "="
					if k := len(name) - 1; k >= 0 && (name[k] == '~' || name[k] == '|') {
						name, how = name[:k], name[k:]+"="
					}
				}
				c.attrs = append(c.attrs, [3]string{strings.TrimSpace(name), how, strings.Trim(strings.TrimSpace(value), `"'`)})
			case ':':
				i++
				p := pseudo{name: word()}
				if i < len(text) && text[i] == '(' {
					end := strings.IndexByte(text[i:], ')')
					if end < 0 {
						return nil, false
					}
					in := text[i+1 : i+end]
					i += end + 1
					if !p.read(in) {
						return nil, false
					}
				} else if !p.plain() {
					return nil, false
				}
				c.pseudo = append(c.pseudo, p)
			default:
				break parts
			}
		}
		if i == begin {
			return nil, false
		}
		space := false
		for i < len(text) && strings.IndexByte(" \t\r\n\f", text[i]) >= 0 {
			i, space = i+1, true
		}
		if i < len(text) {
			switch {
			case text[i] == '>' || text[i] == '+':
				c.then = text[i]
				for i++; i < len(text) && strings.IndexByte(" \t\r\n\f", text[i]) >= 0; {
					i++
				}
			case space:
				c.then = ' '
			default:
				return nil, false
			}
			if i == len(text) {
				return nil, false
			}
		}
		out = append(out, c)
	}
	return out, len(out) > 0
}

// order sorts the rules, the weakest first, and makes them to be found.
func (s *sheet) order() {
	slices.SortStableFunc(s.rules, func(a, b rule) int { return slices.Compare(a.strength[:], b.strength[:]) })
	s.by = map[string][]int{}
	for i, r := range s.rules {
		last := r.selector[len(r.selector)-1]
		key := last.name
		switch {
		case last.id != "":
			key = "#" + last.id
		case len(last.classes) > 0:
			key = "." + last.classes[0]
		}
		s.by[key] = append(s.by[key], i)
	}
}

func (n *node) is(c compound) bool {
	if c.name != "*" && c.name != n.name || c.id != "" && c.id != n.attrs["id"] {
		return false
	}
	for _, p := range c.pseudo {
		if !p.holds(n) {
			return false
		}
	}
	if len(c.classes) > 0 {
		have := strings.Fields(n.attrs["class"])
		for _, k := range c.classes {
			if !slices.Contains(have, k) {
				return false
			}
		}
	}
	for _, a := range c.attrs {
		v, ok := n.attrs[a[0]]
		switch a[1] {
		case "":
		case "=":
			ok = ok && v == a[2]
		case "~=":
			ok = ok && slices.Contains(strings.Fields(v), a[2])
		case "|=":
			ok = ok && (v == a[2] || strings.HasPrefix(v, a[2]+"-"))
		}
		if !ok {
			return false
		}
	}
	return true
}

// matches reports whether an element is what the first compounds of a selector, up to and with k, mean.
func (n *node) matches(sel []compound, k int) bool {
	if !n.is(sel[k]) {
		return false
	}
	if k == 0 {
		return true
	}
	switch sel[k-1].then {
	case '>':
		return n.up != nil && n.up.matches(sel, k-1)
	case '+':
		return n.up != nil && n.at > 0 && n.up.children[n.at-1].matches(sel, k-1)
	}
	for u := n.up; u != nil; u = u.up {
		if u.matches(sel, k-1) {
			return true
		}
	}
	return false
}

// read adds declarations. What is important is kept apart, under its name and a mark.
func (d declared) read(text string) {
	for _, one := range strings.Split(withoutComments(text), ";") {
		k, v, ok := strings.Cut(one, ":")
		if !ok {
			continue
		}
		k, v = strings.ToLower(strings.TrimSpace(k)), strings.TrimSpace(v)
		if head, ok := strings.CutSuffix(v, "important"); ok {
			if h, ok := strings.CutSuffix(strings.TrimSpace(head), "!"); ok {
				d[k+"!"] = strings.TrimSpace(h)
				continue
			}
		}
		d[k] = v
	}
}

func (d declared) add(more declared) {
	for k, v := range more {
		d[k] = v
	}
}

// declared returns what an element sets: its attributes, then sheets, the weakest rule first, then its style attribute,
// then what is important (CSS 2.1, 6.4; SVG 1.1, 6.4).
func (d *Document) declared(n *node) declared {
	if n.style != nil {
		return n.style
	}
	out, strong := declared{}, declared{}
	for k, v := range n.attrs {
		if properties[k] {
			out[k] = strings.TrimSpace(v)
		}
	}
	apply := func(set declared) {
		for k, v := range set {
			if name, ok := strings.CutSuffix(k, "!"); ok {
				strong[name] = v
			} else {
				out[k] = v
			}
		}
	}
	var found []int
	look := func(key string) {
		for _, i := range d.sheet.by[key] {
			if d.sheet.tries++; d.sheet.tries > maxTries {
				return
			}
			if sel := d.sheet.rules[i].selector; n.matches(sel, len(sel)-1) {
				found = append(found, i)
			}
		}
	}
	if len(d.sheet.rules) > 0 {
		look("*")
		look(n.name)
		for _, c := range strings.Fields(n.attrs["class"]) {
			look("." + c)
		}
		if id := n.attrs["id"]; id != "" {
			look("#" + id)
		}
		slices.Sort(found)
		for _, i := range slices.Compact(found) {
			apply(d.sheet.rules[i].set)
		}
	}
	own := declared{}
	own.read(n.attrs["style"])
	apply(own)
	for k, v := range strong {
		out[k] = v
	}
	n.style = out
	return out
}

// properties may stand as attributes.
var properties = map[string]bool{}

func init() {
	for _, p := range strings.Fields(`fill stroke fill-rule clip-rule stroke-width stroke-linecap stroke-linejoin stroke-miterlimit
		stroke-dasharray stroke-dashoffset color display visibility opacity fill-opacity stroke-opacity clip-path mask filter
		marker marker-start marker-mid marker-end stop-color stop-opacity overflow paint-order vector-effect mask-type
		mix-blend-mode transform-origin transform-box`) {
		properties[p] = true
	}
}

// unknown are properties that change what is seen and are not taken, with the values that change nothing.
var unknown = map[string][]string{
	"filter": {"none"}, "mix-blend-mode": {"normal"}, "transform-origin": {"0", "0 0", "0px 0px"}, "transform-box": {"view-box"},
	"clip": {"auto"}, "rotate": {"none"}, "scale": {"none"}, "translate": {"none"}, "d": nil, "offset-path": {"none"},
	"mask-image": {"none"}, "backdrop-filter": {"none"},
}
