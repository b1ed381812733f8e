package main

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/core/upgrade"
	"perigyre/formats/gltf"
	"perigyre/library"
	"perigyre/store"
)

// openShot finds a shot in a project's zip, in a data folder, or as a document by itself, with the stored
// files that it refers to.
func openShot(from, name string, limits model.Limits) (*shot.Shot, *library.Assets, func(), error) {
	nothing := func() {}
	info, err := os.Stat(from)
	if err != nil {
		return nil, nil, nothing, input{fmt.Errorf("there is no file or folder %s", from)}
	}
	pick := func(shots []*shot.Shot) (*shot.Shot, error) {
		var names []string
		var found []*shot.Shot
		for _, s := range shots {
			if s.Name == name || name == "" && len(shots) == 1 {
				found = append(found, s)
			}
			names = append(names, s.Name)
		}
		switch len(found) {
		case 0:
		case 1:
			return found[0], nil
		default:
			return nil, input{fmt.Errorf("%d shots have the name %s; name the one that is meant by the id that its address in the browser ends with", len(found), name)}
		}
		return nil, input{fmt.Errorf("name one of its shots with --shot: %s", strings.Join(names, ", "))}
	}
	if info.IsDir() {
		s, err := store.Open(from)
		if err != nil {
			return nil, nil, nothing, err
		}
		list, err := s.Projects()
		if err != nil {
			return nil, nil, nothing, err
		}
		var shots []*shot.Shot
		for _, p := range list {
			for _, n := range p.Shots {
				h, err := s.Shot(n.ID)
				if err != nil {
					return nil, nil, nothing, err
				}
				if n.ID == name {
					h.Document.Name = name
				}
				shots = append(shots, h.Document)
			}
		}
		d, err := pick(shots)
		return d, &library.Assets{Open: s.Blob, Keep: s.PutBlob, Limits: limits}, func() { s.Close() }, err
	}
	data, err := os.ReadFile(from)
	if err != nil {
		return nil, nil, nothing, err
	}
	if library.IsProject(data) {
		p, err := library.ReadProject(data, limits)
		if err != nil {
			return nil, nil, nothing, input{fmt.Errorf("%s: %w", filepath.Base(from), err)}
		}
		d, err := pick(p.Shots)
		return d, over(p.Blob, limits), nothing, err
	}
	d, err := upgrade.Read(data)
	if err != nil {
		return nil, nil, nothing, input{fmt.Errorf("%s is no project's zip, data folder or shot.json: %w", filepath.Base(from), err)}
	}
	return d, over(func(string) ([]byte, error) {
		return nil, fmt.Errorf("a shot.json by itself has no models; give the project's zip")
	}, limits), nothing, nil
}

// over returns assets in memory over files that are only read.
func over(open func(hash string) ([]byte, error), limits model.Limits) *library.Assets {
	a := library.InMemory(limits)
	kept := a.Open
	a.Open = func(hash string) ([]byte, error) {
		if data, err := kept(hash); err == nil {
			return data, nil
		}
		return open(hash)
	}
	return a
}

func bakeCommand() *cobra.Command {
	c := &cobra.Command{Use: "bake PROJECT", Short: "Print where every part of a shot is on every frame", Args: cobra.ExactArgs(1),
		Long: "Print the world matrix of every part on every frame: 16 numbers by columns, metres, y up. PROJECT is a project's zip, a data folder or a shot.json."}
	name := c.Flags().String("shot", "", "name of the shot")
	asCSV := c.Flags().Bool("csv", false, "print rows of part, frame and matrix, rather than JSON")
	_ = c.Flags().Bool("json", true, "print JSON")
	limits := limitFlags(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		d, _, done, err := openShot(args[0], *name, limits())
		defer done()
		if err != nil {
			return err
		}
		e := pose.New(d)
		out := bufio.NewWriter(os.Stdout)
		if *asCSV {
			w := csv.NewWriter(out)
			head := []string{"part", "id", "frame"}
			for k := range 16 {
				head = append(head, fmt.Sprintf("m%d", k))
			}
			_ = w.Write(head) // Flush reports
			for f := range d.Frames {
				for i, m := range e.At(float64(f)) {
					row := []string{d.Parts[i].Name, d.Parts[i].ID, strconv.Itoa(f)}
					for _, v := range m {
						row = append(row, strconv.FormatFloat(v, 'g', -1, 64))
					}
					_ = w.Write(row)
				}
			}
			w.Flush()
			if err := w.Error(); err != nil {
				return err
			}
			return out.Flush()
		}
		type baked struct {
			Part   string      `json:"part"`
			ID     string      `json:"id"`
			Frames []geom.Mat4 `json:"frames"` // one for all of a part that stands still
		}
		list := make([]baked, len(d.Parts))
		for i, p := range d.Parts {
			list[i] = baked{p.Name, p.ID, nil}
		}
		animated := make([]bool, len(d.Parts))
		for _, i := range e.Animated() {
			animated[i] = true
		}
		err = e.Bake(func(f int, world []geom.Mat4) error {
			for i := range list {
				if f == 0 || animated[i] {
					list[i].Frames = append(list[i].Frames, world[i])
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		if err := json.NewEncoder(out).Encode(map[string]any{"shot": d.Name, "frames": d.Frames, "rate": d.Rate, "ending": d.Ending, "parts": list}); err != nil {
			return err
		}
		return out.Flush()
	}
	return c
}

func exportCommand() *cobra.Command {
	c := &cobra.Command{Use: "export PROJECT", Short: "Write a shot as GLB with its motion", Args: cobra.ExactArgs(1),
		Long: "Write a shot as GLB, with its motion as an animation that has a sample on every frame. PROJECT is a project's zip or a data folder."}
	name := c.Flags().String("shot", "", "name of the shot")
	to := c.Flags().String("glb", "", "the file to write")
	limits := limitFlags(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		if *to == "" {
			return input{fmt.Errorf("name the file to write with --glb")}
		}
		if _, err := os.Stat(*to); err == nil {
			return input{fmt.Errorf("%s is there already; it is not written over", *to)}
		}
		d, a, done, err := openShot(args[0], *name, limits())
		defer done()
		if err != nil {
			return err
		}
		m, err := library.Export(d, a)
		if err != nil {
			return err
		}
		data, err := gltf.Write(m)
		if err != nil {
			return err
		}
		return store.WriteFile(*to, data)
	}
	return c
}
