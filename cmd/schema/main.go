// Command schema prints the JSON Schema of the document and of the replies of the server, from which
// docs/schema.json and the front end's types are made; with the word "shot", that of the document alone.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"reflect"
	"strings"
	"time"

	"github.com/invopop/jsonschema"

	"perigyre/core/mesh"
	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/server"
)

// wire holds every type that goes over the wire.
type wire struct {
	State    server.State          `json:"state"`
	Shot     server.ShotReply      `json:"shot"`
	Edit     server.EditRequest    `json:"edit"`
	Version  server.VersionRequest `json:"version"`
	Imported server.Imported       `json:"imported"`
	Names    server.NameReply      `json:"names"`
	RunAsked server.RunRequest     `json:"runRequest"`
	Run      server.RunReply       `json:"run"`
	Event    server.Event          `json:"event"`
	Error    server.ErrorReply     `json:"error"`
	History  []server.Revision     `json:"history"`
	Hole     mesh.Cylinder         `json:"hole"`
	Triage   library.Triage        `json:"triage"`
	Replaced library.Replaced      `json:"replaced"`
	Textured library.Textured      `json:"textured"`
	Numbers  library.Numbers       `json:"numbers"`
	Compare  server.CompareReply   `json:"compare"`
	Paste    server.PasteRequest   `json:"paste"`
	Pasted   server.PasteReply     `json:"pasted"`
	Font     server.FontReply      `json:"font"`
	HoleAsk  server.HoleRequest    `json:"holeRequest"`
}

func main() {
	var v any = &wire{}
	if len(os.Args) > 1 && os.Args[1] == "shot" { // the document alone
		v = &shot.Shot{}
	}
	r := jsonschema.Reflector{DoNotReference: false, ExpandedStruct: true, Anonymous: true, AllowAdditionalProperties: false}
	r.Mapper = func(t reflect.Type) *jsonschema.Schema {
		if t == reflect.TypeFor[time.Time]() {
			return &jsonschema.Schema{Type: "string", Format: "date-time"}
		}
		return nil
	}
	s := r.Reflect(v)
	whole := reflect.TypeOf(v).Elem()
	nullable(s, whole, whole, map[reflect.Type]bool{})
	s.Title = map[bool]string{true: "Wire", false: "Perigyre shot"}[len(os.Args) == 1]
	out, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	fmt.Println(string(out))
}

// nullable marks the pointers that are written as null: those without omitempty.
func nullable(root *jsonschema.Schema, whole, t reflect.Type, seen map[reflect.Type]bool) {
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
		t = t.Elem()
	}
	if t.Kind() != reflect.Struct || seen[t] {
		return
	}
	seen[t] = true
	def := root.Definitions[t.Name()]
	if t == whole {
		def = root
	}
	for i := range t.NumField() {
		f := t.Field(i)
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Type.Kind() == reflect.Pointer && !strings.Contains(options, "omitempty") && def != nil {
			if p, ok := def.Properties.Get(name); ok {
				copied := *p
				def.Properties.Set(name, &jsonschema.Schema{OneOf: []*jsonschema.Schema{&copied, {Type: "null"}}})
			}
		}
		nullable(root, whole, f.Type, seen)
	}
}
