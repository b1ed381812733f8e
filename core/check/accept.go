package check

import (
	"slices"

	"perigyre/core/shot"
)

// worse is how much worse something has to get, as a share, for it to come back though it was accepted.
const worse = 0.1

// accepted marks what the document says is to stay. What is not there any more, or has become worse by a tenth, is not meant.
func accepted(s *shot.Shot, f *Finding) {
	for _, a := range s.Accepted {
		if a.Kind == f.Kind && slices.Equal(a.Parts, f.Parts) && f.Value <= a.Value*(1+worse)+1e-9 {
			f.Accepted, f.Weight = &a.Reason, Note
		}
	}
}
