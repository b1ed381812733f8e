package shot

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// MaxName is how many characters a name may have.
const MaxName = 200

// CheckName returns an error in a sentence for a name that is too long. What is named it says.
func CheckName(what, name string) error {
	if n := utf8.RuneCountInString(name); n > MaxName {
		return fmt.Errorf("the name of %s has %d characters, more than %d", what, n, MaxName)
	}
	return nil
}

// CleanName returns a name from a file as it can be kept: without what cannot be seen and changes how the rest is read
// (control characters, marks of direction and others of format: Unicode's categories Cc and Cf), and no longer than MaxName.
func CleanName(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || r == unicode.ReplacementChar {
			return -1
		}
		return r
	}, strings.ToValidUTF8(name, ""))
	if name = strings.TrimSpace(name); utf8.RuneCountInString(name) > MaxName {
		runes := []rune(name)
		name = strings.TrimSpace(string(runes[:MaxName-1])) + "…"
	}
	return name
}

// names goes through the names of a document.
func (s *Shot) names(do func(what string, name *string) error) error {
	if err := do("the shot", &s.Name); err != nil {
		return in("name", err)
	}
	for i := range s.Parts {
		if err := do("a part", &s.Parts[i].Name); err != nil {
			return &FieldError{Part: s.Parts[i].ID, Field: "name", Why: err}
		}
	}
	for i := range s.Materials {
		if err := do("a material", &s.Materials[i].Name); err != nil {
			return in("materials", err)
		}
	}
	for i := range s.Finishes {
		if err := do("a finish", &s.Finishes[i].Name); err != nil {
			return in("finishes", err)
		}
	}
	for i := range s.Sources {
		if err := do("a file", &s.Sources[i].File); err != nil {
			return in("sources", err)
		}
	}
	return in("environment", do("the picture of the surroundings", &s.Environment.Name))
}

// CleanNames brings the names of a document that was kept before names had limits within them.
func (s *Shot) CleanNames() {
	_ = s.names(func(_ string, name *string) error {
		if CheckName("", *name) != nil {
			*name = CleanName(*name)
		}
		return nil
	})
}
