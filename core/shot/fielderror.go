package shot

import "fmt"

// FieldError says which field of a document is wrong, and why.
type FieldError struct {
	Part  string // the id of the part, or empty for a field of the document itself
	Field string // as its JSON names it, from the part or the document on: "rest.size"
	Why   error  // a sentence; with a part, one that begins with its name
}

func (e *FieldError) Error() string { return e.Why.Error() }

// Unwrap returns why.
func (e *FieldError) Unwrap() error { return e.Why }

// wrong returns a FieldError of the document.
func wrong(field, sentence string, values ...any) error {
	return &FieldError{Field: field, Why: fmt.Errorf(sentence, values...)}
}

// in returns an error within a field; nil stays nil.
func in(field string, err error) error {
	if err == nil {
		return nil
	}
	return &FieldError{Field: field, Why: err}
}

// onPart returns an error as one of a part, named.
func onPart(p *Part, err error) error {
	if err == nil {
		return nil
	}
	out := &FieldError{Part: p.ID, Why: fmt.Errorf("part %q: %w", p.Name, err)}
	if e, ok := err.(*FieldError); ok { // the field is that of the part; the sentence, the part's
		out.Field = e.Field
	}
	return out
}
