package runs

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"slices"
	"sync"

	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/store"
)

// Twin is where a frame was rendered before.
type Twin struct {
	Folder string
	store.Frame
}

// picture returns a hash of all that a frame's files depend on: frames with the same one have the same files, in
// this run and in any other, of this shot and of any other.
func (p *Plan) picture(frame int) (string, error) {
	has := func(pass render.Pass) bool { return slices.Contains(p.Settings.Passes, pass) }
	asked := pose.Asked{Apart: has(render.Matte) || has(render.PartMattes)}
	if has(render.Motion) { // it shows where things come from and go to
		asked.Near = []float64{-0.5, 0.5}
	}
	key, err := p.pose.Key(float64(frame), p.props, asked)
	if err != nil {
		return "", err
	}
	return sum([]byte(p.still() + key)), nil
}

// still returns a hash of what does not move: of the shot as it is worn all that can be seen, without moves and
// places, which the poses tell; the settings without the range; the texts in the files; and the program itself.
func (p *Plan) still() string {
	p.once.Do(func() {
		s := *p.Document.Dressed()
		s.Sources, s.Finishes, s.Finish, s.Name = nil, nil, "", ""
		var parts []shot.Part
		hidden := map[string]bool{}
		used := map[string]bool{}
		for _, part := range s.Parts {
			if hidden[part.ID] = part.Hidden || hidden[part.Parent]; hidden[part.ID] {
				continue
			}
			part.Moves, part.Tracks, part.Rest = nil, nil, shot.AtRest
			part.Away, part.Locked, part.Tag = false, false, ""
			for _, m := range part.Materials {
				used[m] = true
			}
			parts = append(parts, part)
		}
		s.Parts = parts
		s.Materials = slices.DeleteFunc(slices.Clone(s.Materials), func(m material.Material) bool { return !used[m.ID] })
		o := p.Settings
		o.From, o.To, o.Only, o.First, o.Padding, o.Name, o.Apart = 0, 0, nil, 0, 0, "", false
		title, comment := p.texts()
		doc, _ := json.Marshal(s) // a validated document always encodes
		settings, _ := json.Marshal(o)
		p.base = sum([]byte(program() + string(doc) + string(settings) + title + comment))
	})
	return p.base
}

// program is a hash of the running program: another one may draw another picture.
var program = sync.OnceValue(func() string {
	h := sha256.New()
	if name, err := os.Executable(); err == nil {
		if f, err := os.Open(name); err == nil {
			_, _ = io.Copy(h, f) // what cannot be read is told apart from nothing
			f.Close()
		}
	}
	return hex.EncodeToString(h.Sum(nil))
})

// again returns the files of a frame that shows the same, nil where there is none that is whole.
func (p *Plan) again(picture string) (files [][]byte, preview []byte) {
	twins := []Twin{}
	if f, ok := p.made[picture]; ok {
		twins = append(twins, f)
	}
	if p.Elsewhere != nil {
		twins = append(twins, p.Elsewhere(picture)...)
	}
	for _, t := range twins {
		files, err := read(t.Folder, t.Frame)
		if err != nil || sum(files...) != t.SHA256 {
			continue
		}
		if shown := p.Preview(t.File); shown != t.File {
			if preview, err = os.ReadFile(filepath.Join(t.Folder, shown)); err != nil {
				continue
			}
		}
		return files, preview
	}
	return nil, nil
}

// Remember lets a frame that is done be taken again where another one shows the same.
func (p *Plan) Remember(f store.Frame) {
	if picture, err := p.picture(f.Number); err == nil {
		p.made[picture] = Twin{p.Folder, f}
	}
}
