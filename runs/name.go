package runs

import (
	"fmt"
	"path"
	"strings"
	"unicode"
	"unicode/utf8"

	"perigyre/core/shot"
)

// Names are what the fields of a name pattern stand for.
type Names struct {
	Project, Shot, Model, Camera string
}

// NamesOf returns the names of a shot in a project.
func NamesOf(project string, s *shot.Shot) Names {
	n := Names{Project: project, Shot: s.Name, Model: project}
	if len(s.Sources) > 0 {
		file := s.Sources[0].File
		n.Model = strings.TrimSuffix(file, path.Ext(file))
	}
	if c := s.Part(s.Camera); c != nil {
		n.Camera = c.Name
	}
	return n
}

// File returns the file name of a frame of the shot. The number in it is the frame's plus the first
// number, so that a part of a range has the numbers it has in the whole.
func (o Settings) File(n Names, frame int) (string, error) {
	var out strings.Builder
	rest, numbered := o.Name, 0
	for rest != "" {
		before, after, found := strings.Cut(rest, "{")
		out.WriteString(before)
		if !found {
			break
		}
		field, tail, closed := strings.Cut(after, "}")
		if !closed {
			return "", fmt.Errorf("the name %q has a { without its }", o.Name)
		}
		switch field {
		case "project":
			out.WriteString(n.Project)
		case "shot":
			out.WriteString(n.Shot)
		case "model":
			out.WriteString(n.Model)
		case "camera":
			out.WriteString(n.Camera)
		case "frame":
			numbered++
			fmt.Fprintf(&out, "%0*d", o.Padding, o.First+frame)
		default:
			return "", fmt.Errorf("the name has the field {%s}; there are {project}, {shot}, {model}, {camera} and {frame}", field)
		}
		rest = tail
	}
	if numbered == 0 && o.Frames() > 1 {
		return "", fmt.Errorf("the name %q needs {frame}, or all files would have the same name", o.Name)
	}
	extension := formats[o.format()].extension
	return SafeName(strings.TrimSuffix(out.String(), extension)) + extension, nil
}

const longestName = 180 // bytes; most file systems allow 255

// SafeName returns a name that every common file system takes: no separators or reserved characters,
// no control characters, no dots or spaces at the ends, none of the reserved device names.
func SafeName(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(`<>:"/\|?*`, r) || r == unicode.ReplacementChar {
			return '_'
		}
		return r
	}, s)
	for len(s) > longestName { // from the front, so that a number at the end stays
		_, size := utf8.DecodeRuneInString(s)
		s = s[size:]
	}
	s = strings.Trim(s, ". ")
	stem, _, _ := strings.Cut(strings.ToUpper(s), ".")
	switch {
	case s == "":
		return "unnamed"
	case stem == "CON" || stem == "PRN" || stem == "AUX" || stem == "NUL",
		len(stem) == 4 && (strings.HasPrefix(stem, "COM") || strings.HasPrefix(stem, "LPT")) && stem[3] >= '0' && stem[3] <= '9':
		return "_" + s
	}
	return s
}
