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
	Project, Shot, Model, Camera, Finish, Format string
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
	n.Finish = "as it came"
	for _, f := range s.Finishes {
		if f.ID == s.Finish {
			n.Finish = f.Name
		}
	}
	n.Format = fmt.Sprintf("%dx%d", s.Format.Width, s.Format.Height)
	return n
}

// File returns the file name of a frame of the shot. The number in it is the frame's plus the first
// number, so that a part of a range has the numbers it has in the whole.
func (o Settings) File(n Names, frame int) (string, error) {
	var pieces []piece
	rest, numbered := o.Name, 0
	for rest != "" {
		before, after, found := strings.Cut(rest, "{")
		pieces = append(pieces, piece{text: before})
		if !found {
			break
		}
		field, tail, closed := strings.Cut(after, "}")
		if !closed {
			return "", fmt.Errorf("the name %q has a { without its }", o.Name)
		}
		switch field {
		case "project":
			pieces = append(pieces, piece{text: n.Project})
		case "shot":
			pieces = append(pieces, piece{text: n.Shot})
		case "model":
			pieces = append(pieces, piece{text: n.Model})
		case "camera":
			pieces = append(pieces, piece{text: n.Camera})
		case "finish":
			pieces = append(pieces, piece{text: n.Finish})
		case "format":
			pieces = append(pieces, piece{text: n.Format})
		case "frame":
			if numbered++; numbered > 3 {
				return "", fmt.Errorf("the name %q has {frame} more than three times", o.Name)
			}
			pieces = append(pieces, piece{fmt.Sprintf("%0*d", o.Padding, o.First+frame), true})
		default:
			return "", fmt.Errorf("the name has the field {%s}; there are {project}, {shot}, {model}, {camera}, {finish}, {format} and {frame}", field)
		}
		rest = tail
	}
	if numbered == 0 && o.Frames() > 1 {
		return "", fmt.Errorf("the name %q needs {frame}, or all files would have the same name", o.Name)
	}
	extension := o.format().words().extension
	return SafeName(strings.TrimSuffix(shortened(pieces), extension)) + extension, nil
}

const longestName = 180 // bytes; most file systems allow 255

// piece is a part of a name; the number of a frame is never cut.
type piece struct {
	text  string
	fixed bool
}

// shortened joins pieces to a name that is no longer than names may be: what is longest is cut at its end.
func shortened(pieces []piece) string {
	total := 0
	for i, p := range pieces {
		if !p.fixed {
			pieces[i].text = clean(p.text)
		}
		total += len(pieces[i].text)
	}
	for total > longestName {
		longest := -1
		for i, p := range pieces {
			if !p.fixed && (longest < 0 || len(p.text) > len(pieces[longest].text)) {
				longest = i
			}
		}
		if longest < 0 || pieces[longest].text == "" {
			break // numbers alone; they have few digits
		}
		p := &pieces[longest]
		_, size := utf8.DecodeLastRuneInString(p.text)
		p.text = p.text[:len(p.text)-size]
		total -= size
	}
	var out strings.Builder
	for _, p := range pieces {
		out.WriteString(p.text)
	}
	return out.String()
}

// clean replaces what file systems do not take, and leaves out what cannot be seen and changes how a name is read.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Cf, r):
			return -1
		case unicode.IsControl(r) || strings.ContainsRune(`<>:"/\|?*`, r) || r == unicode.ReplacementChar:
			return '_'
		}
		return r
	}, s)
}

// SafeName returns a name that every common file system takes: no separators or reserved characters,
// no control characters or marks of direction, no dots or spaces at the ends, none of the reserved device names.
func SafeName(s string) string {
	s = shortened([]piece{{text: s}})
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
