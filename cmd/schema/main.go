// Command schema prints the JSON Schema of the document and of the replies of the server, from which
// docs/schema.json and the front end's types are made; with the word "shot", that of the document alone.
package main

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/invopop/jsonschema"

	"perigyre/core/edit"
	"perigyre/core/exploded"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/server"
)

// wire holds every type that goes over the wire.
type wire struct {
	State       server.State          `json:"state"`
	Shot        server.ShotReply      `json:"shot"`
	Change      server.ShotChange     `json:"change"`
	Edit        server.EditRequest    `json:"edit"`
	Version     server.VersionRequest `json:"version"`
	Imported    server.Imported       `json:"imported"`
	Made        server.Made           `json:"made"`
	ShotRequest server.ShotRequest    `json:"shotRequest"`
	Names       server.NameReply      `json:"names"`
	RunAsked    server.RunRequest     `json:"runRequest"`
	Run         server.RunReply       `json:"run"`
	Event       server.Event          `json:"event"`
	Workers     server.WorkersReply   `json:"workers"`
	Wish        server.WishRequest    `json:"wish"`
	Error       server.ErrorReply     `json:"error"`
	History     []server.Revision     `json:"history"`
	Hole        mesh.Cylinder         `json:"hole"`
	Triage      library.Triage        `json:"triage"`
	Replaced    library.Replaced      `json:"replaced"`
	Textured    library.Textured      `json:"textured"`
	Numbers     library.Numbers       `json:"numbers"`
	Compare     server.CompareReply   `json:"compare"`
	Paste       server.PasteRequest   `json:"paste"`
	Pasted      server.PasteReply     `json:"pasted"`
	Parts       server.PartsRequest   `json:"parts"`
	Suiting     server.SuitingReply   `json:"suiting"`
	Findings    server.FindingsReply  `json:"findings"`
	Rehearsal   server.RehearsalReply `json:"rehearsal"`
	Meters      server.MetersReply    `json:"meters"`
	Apart       server.ApartReply     `json:"apart"`
	ApartAsk    exploded.Wish         `json:"apartRequest"`
	Curves      server.CurvesReply    `json:"curves"`
	Font        server.FontReply      `json:"font"`
	Measured    edit.Measured         `json:"measured"`
	HoleAsk     server.HoleRequest    `json:"holeRequest"`
}

func main() {
	var v any = &wire{}
	if len(os.Args) > 1 && os.Args[1] == "shot" { // the document alone
		v = &shot.Shot{}
	}
	r := jsonschema.Reflector{DoNotReference: false, ExpandedStruct: true, Anonymous: true, AllowAdditionalProperties: false}
	r.Mapper = func(t reflect.Type) *jsonschema.Schema {
		switch t {
		case reflect.TypeFor[time.Time]():
			return &jsonschema.Schema{Type: "string", Format: "date-time"}
		case reflect.TypeFor[edit.Patch]():
			return &jsonschema.Schema{Type: "object", Description: "A JSON Merge Patch, RFC 7396"}
		case reflect.TypeFor[json.RawMessage]():
			return &jsonschema.Schema{}
		case reflect.TypeFor[edit.Edit]():
			return &jsonschema.Schema{Ref: "#/$defs/Edit"}
		}
		return nil
	}
	named := map[string]reflect.Type{}
	r.Namer = func(t reflect.Type) string { // types of one name in several packages are told apart by their packages
		if t.Name() == "" {
			return ""
		}
		if was, ok := named[t.Name()]; !ok || was == t {
			named[t.Name()] = t
			return t.Name()
		}
		name := path.Base(t.PkgPath())
		return strings.ToUpper(name[:1]) + name[1:] + t.Name()
	}
	s := r.Reflect(v)
	moves := map[string]any{}
	for _, k := range move.Kinds() {
		moves[string(k.Name)] = k.Blank()
	}
	if def := s.Definitions["Move"]; def != nil { // its data stands under the name of its kind
		for _, name := range slices.Sorted(maps.Keys(moves)) {
			def.Properties.Set(name, define(&r, s, "Move", moves[name]))
		}
	}
	if len(os.Args) == 1 {
		all := &jsonschema.Schema{Description: "An edit has the name of its kind"}
		kinds := edit.Kinds()
		for _, name := range slices.Sorted(maps.Keys(kinds)) {
			one := &jsonschema.Schema{Type: "object", Required: []string{name}, Properties: jsonschema.NewProperties(), AdditionalProperties: jsonschema.FalseSchema}
			one.Properties.Set(name, define(&r, s, "Edit", kinds[name]))
			all.OneOf = append(all.OneOf, one)
		}
		s.Definitions["Edit"] = all
	}
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

// define adds the definitions of a value's type, under its name with an ending, and returns a reference to it.
func define(r *jsonschema.Reflector, root *jsonschema.Schema, ending string, v any) *jsonschema.Schema {
	s := r.Reflect(v)
	for name, def := range s.Definitions {
		if root.Definitions[name] == nil {
			root.Definitions[name] = def
		}
	}
	s.Definitions, s.Version = nil, ""
	name := reflect.TypeOf(v).Elem().Name() + ending
	root.Definitions[name] = s
	return &jsonschema.Schema{Ref: "#/$defs/" + name}
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
