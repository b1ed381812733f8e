package shot

import _ "embed"

// JSONSchema is the JSON Schema of the document, made from its Go types by cmd/schema.
//
//go:embed shot.schema.json
var JSONSchema []byte
