package library

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"path"
	"perigyre/core/edit"
	"slices"
	"strings"

	"golang.org/x/image/draw"

	"perigyre/core/material"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// Textured says what became of pictures that were brought to a shot.
type Textured struct {
	Placed []PlacedPicture `json:"placed"`
	Left   []LeftPicture   `json:"left"`
}

// PlacedPicture is a picture that was put into a slot, and why there.
type PlacedPicture struct {
	File     string        `json:"file"`
	Material string        `json:"material"` // its name
	Slot     material.Slot `json:"slot"`
	Why      string        `json:"why"`
	Doubt    bool          `json:"doubt"`
}

// LeftPicture is a file that was not used, and why.
type LeftPicture struct {
	File string `json:"file"`
	Why  string `json:"why"`
}

// picture is a file on its way into a slot.
type loosePicture struct {
	file  string
	data  model.Image
	image image.Image
	guess Guess
}

// PlacePictures finds places for pictures in the materials of a shot: see Place.
type PlacePictures struct {
	Files     []File   `json:"files"`
	Materials []string `json:"materials,omitempty"` // that are meant before others

	Got *Textured `json:"-"` // what became of them
}

func init() { edit.Register[PlacePictures]("placePictures") }

// Do implements edit.Change.
func (e *PlacePictures) Do(w *edit.Work) (string, error) {
	a, err := assetsOf(w.Env)
	if err != nil {
		return "", err
	}
	if e.Got, err = Place(w.Shot, e.Files, e.Materials, a); err != nil {
		return "", err
	}
	if len(e.Got.Placed) == 1 {
		return "Place " + e.Got.Placed[0].File, nil
	}
	return fmt.Sprintf("Place %d textures", len(e.Got.Placed)), nil
}

// Place finds places for pictures in the materials of a document, which it changes. Those that materials
// miss go where they are missed. Others go where their names and pixels say, into the material that their
// names name, else into the chosen ones, else into the only one that came from a file. Roughness and metal
// in pictures of their own are joined in one. Put keeps new pictures and returns their hash.
func Place(d *shot.Shot, files []File, chosen []string, a *Assets) (*Textured, error) {
	return place(d, files, chosen, a, false)
}

// PlaceSpare finds places for pictures that came along with a model: as Place, but only where the model has no picture.
func PlaceSpare(d *shot.Shot, files []File, a *Assets) (*Textured, error) {
	return place(d, files, nil, a, true)
}

func place(d *shot.Shot, files []File, chosen []string, a *Assets, spare bool) (*Textured, error) {
	files, err := unpack(files, a.Limits)
	if err != nil {
		return nil, err
	}
	out := &Textured{Placed: []PlacedPicture{}, Left: []LeftPicture{}}
	w := &texturing{d: d, a: a, out: out, new: &model.Model{}}
	var rest []loosePicture
	for _, f := range files {
		p, why := open(f, a.Limits)
		if why != "" {
			out.Left = append(out.Left, LeftPicture{f.Name, why})
		} else if !w.found(p) {
			rest = append(rest, p)
		}
	}
	own := fromFiles(d)
	for i := range rest {
		p := &rest[i]
		p.guess = GuessRole(p.file, p.image)
		if p.guess.LeftOut {
			out.Left = append(out.Left, LeftPicture{p.file, p.guess.Why})
			continue
		}
		to := namesakes(d, p.file)
		if len(to) == 0 {
			to = chosen
		}
		if len(to) == 0 && len(own) == 1 {
			to = own
		}
		if len(to) == 0 {
			out.Left = append(out.Left, LeftPicture{p.file, fmt.Sprintf("it is for %s, but no material has its name; select a part that it is for", p.guess.Slot)})
			continue
		}
		if spare {
			to = slices.DeleteFunc(slices.Clone(to), func(id string) bool {
				k := slices.IndexFunc(d.Materials, func(m material.Material) bool { return m.ID == id })
				return k >= 0 && *d.Materials[k].Slot(p.guess.Slot) != nil
			})
			if len(to) == 0 {
				out.Left = append(out.Left, LeftPicture{p.file, fmt.Sprintf("it is for %s, where the model has a picture", p.guess.Slot)})
				continue
			}
		}
		for _, id := range to {
			if err := w.place(id, p); err != nil {
				return nil, err
			}
		}
	}
	if len(out.Placed) == 0 {
		return out, nil
	}
	return out, w.keep(a.KeepModel)
}

type texturing struct {
	d   *shot.Shot
	a   *Assets
	out *Textured
	new *model.Model // the new pictures; textures refer to it by an empty asset
}

func (w *texturing) keep(put func(*model.Model) (string, error)) error {
	hash, err := put(w.new)
	if err != nil {
		return err
	}
	for i := range w.d.Materials {
		for _, slot := range w.d.Materials[i].TextureSlots() {
			if t := *slot; t != nil && t.Asset == "" {
				t.Asset = hash
			}
		}
	}
	return nil
}

func open(f File, limits model.Limits) (p loosePicture, why string) {
	m := &model.Model{Images: []model.Image{{Name: path.Base(f.Name), Data: f.Data}}}
	img, err := picture(m, &m.Images[0], limits)
	if err != nil {
		return p, err.Error()
	}
	if m.Images[0].Missing() {
		return p, "it is no picture that can be read, or it is damaged"
	}
	return loosePicture{file: path.Base(f.Name), data: m.Images[0], image: img}, ""
}

// add keeps a picture among the new ones and returns a texture of it.
func (w *texturing) add(img model.Image) *material.Texture {
	for i, have := range w.new.Images {
		if bytes.Equal(have.Data, img.Data) {
			return &material.Texture{Image: i}
		}
	}
	w.new.Images = append(w.new.Images, img)
	return &material.Texture{Image: len(w.new.Images) - 1}
}

// found puts a picture wherever a file of its name is missing. Another kind of picture with the same name
// will do.
func (w *texturing) found(p loosePicture) bool {
	stem := func(n string) string {
		n = path.Base(strings.ReplaceAll(n, `\`, "/"))
		return strings.ToLower(strings.TrimSuffix(n, path.Ext(n)))
	}
	any := false
	for i := range w.d.Materials {
		m := &w.d.Materials[i]
		for k, slot := range m.TextureSlots() {
			if t := *slot; t != nil && t.Missing != "" && stem(t.Missing) == stem(p.file) {
				at := w.add(p.data)
				*slot = &material.Texture{Image: at.Image, WrapS: t.WrapS, WrapT: t.WrapT, Transform: t.Transform}
				w.out.Placed = append(w.out.Placed, PlacedPicture{p.file, m.Name, material.Slots[k], "it was missing there", false})
				any = true
			}
		}
	}
	return any
}

// fromFiles returns the materials of parts that came from files.
func fromFiles(d *shot.Shot) (ids []string) {
	for i := range d.Parts {
		if p := &d.Parts[i]; p.Mesh != nil {
			for _, id := range p.Materials {
				if id != "" && !slices.Contains(ids, id) {
					ids = append(ids, id)
				}
			}
		}
	}
	return ids
}

// namesakes returns the materials whose names a file's name has in it, as far as they are the longest such.
func namesakes(d *shot.Shot, file string) (ids []string) {
	_, _, rest, _ := byName(file)
	have := strings.Join(rest, "")
	longest := 2 // shorter names are in everything
	for _, id := range fromFiles(d) {
		for _, m := range d.Materials {
			if m.ID != id {
				continue
			}
			name := strings.Join(pieces(m.Name+"."), "")
			switch {
			case len(name) < longest || have == "" || !strings.Contains(have, name):
			case len(name) > longest:
				ids, longest = []string{id}, len(name)
			default:
				ids = append(ids, id)
			}
		}
	}
	return ids
}

// place puts a picture into a slot of a material.
func (w *texturing) place(id string, p *loosePicture) error {
	at := slices.IndexFunc(w.d.Materials, func(m material.Material) bool { return m.ID == id })
	if at < 0 {
		return fmt.Errorf("a material that was chosen is not in this shot any more")
	}
	m := &w.d.Materials[at]
	g := p.guess
	data := p.data
	switch {
	case g.Slot == material.Roughness || g.Slot == material.Metal:
		img, err := w.join(m, g.Slot, p.image)
		if err != nil {
			return err
		}
		data = model.Image{Name: strings.TrimSuffix(p.file, path.Ext(p.file)) + ".png", MIME: "image/png", Data: encode(img)}
	case g.FlipGreen:
		b := p.image.Bounds()
		img := image.NewNRGBA(b)
		draw.Draw(img, b, p.image, b.Min, draw.Src)
		for i := 1; i < len(img.Pix); i += 4 {
			img.Pix[i] = 255 - img.Pix[i]
		}
		data = model.Image{Name: p.file, MIME: "image/png", Data: encode(img)}
		g.Why += "; its green was turned upwards"
	}
	t := w.add(data)
	m.Fill(g.Slot, t)
	if g.Slot == material.MetalRough && slices.Contains([]string{"orm", "arm"}, roleWord(p.file)) && m.Occlusion == nil {
		m.Fill(material.Occlusion, w.add(data)) // red is the occlusion
	}
	if g.Slot == material.BaseColor {
		m.Alpha = coverage(p.image, m.Alpha)
	}
	why := g.Why
	if !w.mapped(id) {
		why += "; its parts have no texture coordinates, so that it cannot be seen"
	}
	w.out.Placed = append(w.out.Placed, PlacedPicture{p.file, m.Name, g.Slot, why, g.Doubt})
	return nil
}

func roleWord(file string) string {
	for _, w := range pieces(file) {
		if roleWords[w] != "" {
			return w
		}
	}
	return ""
}

// mapped reports whether any surface of a material has texture coordinates.
func (w *texturing) mapped(id string) bool {
	for i := range w.d.Parts {
		p := &w.d.Parts[i]
		if p.Mesh == nil || !slices.Contains(p.Materials, id) {
			continue
		}
		prims, err := w.a.Mesh(*p.Mesh)
		if err != nil {
			return true
		}
		for k, prim := range prims {
			if k < len(p.Materials) && p.Materials[k] == id && prim.UV != nil {
				return true
			}
		}
	}
	return false
}

// join puts a grey picture into the green (roughness) or blue (metal) of the material's picture of both.
func (w *texturing) join(m *material.Material, slot material.Slot, grey image.Image) (image.Image, error) {
	b := grey.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	for i := range out.Pix {
		out.Pix[i] = 255
	}
	if t := m.MetallicRoughness; t != nil && t.Missing == "" {
		old, err := w.picture(t)
		if err != nil {
			return nil, err
		}
		if old != nil {
			draw.BiLinear.Scale(out, out.Rect, old, old.Bounds(), draw.Src, nil)
		}
	}
	channel := map[material.Slot]int{material.Roughness: 1, material.Metal: 2}[slot]
	for y := range b.Dy() {
		for x := range b.Dx() {
			out.Pix[out.PixOffset(x, y)+channel] = color.GrayModel.Convert(grey.At(b.Min.X+x, b.Min.Y+y)).(color.Gray).Y
		}
	}
	return out, nil
}

// picture returns the decoded picture of a texture, of a new one too.
func (w *texturing) picture(t *material.Texture) (image.Image, error) {
	if t.Asset != "" {
		return w.a.Picture(t.Asset, t.Image)
	}
	img, _, err := decode(w.new.Images[t.Image].Name, w.new.Images[t.Image].Data, w.a.Limits)
	return img, err
}

func encode(img image.Image) []byte {
	var b bytes.Buffer
	_ = png.Encode(&b, img) // a bytes.Buffer does not fail
	return b.Bytes()
}

// coverage returns how the alpha of a base colour is to be taken: as it was where there is none, as a mask
// where it is all or nothing, else blended.
func coverage(img image.Image, was material.AlphaMode) material.AlphaMode {
	b := img.Bounds()
	step := max(1, max(b.Dx(), b.Dy())/128)
	n, some, between := 0, 0, 0
	for y := b.Min.Y; y < b.Max.Y; y += step {
		for x := b.Min.X; x < b.Max.X; x += step {
			_, _, _, a := img.At(x, y).RGBA()
			n++
			if a < 0xf000 {
				some++
				if a > 0x1000 {
					between++
				}
			}
		}
	}
	switch {
	case some*200 < n:
		return was
	case between*10 < some:
		return material.Mask
	}
	return material.Blend
}

// MoveTexture moves the texture of one slot to another, of the same material or not; what is in the way
// goes the other way. Without a place to go it is taken out.
type MoveTexture struct {
	Material string        `json:"material"`
	Slot     material.Slot `json:"slot"`
	To       string        `json:"to,omitempty"` // material
	ToSlot   material.Slot `json:"toSlot,omitempty"`
}

func init() { edit.Register[MoveTexture]("texture") }

// Do implements edit.Change.
func (e *MoveTexture) Do(work *edit.Work) (string, error) {
	a, err := assetsOf(work.Env)
	if err != nil {
		return "", err
	}
	d := work.Shot
	find := func(id string) (*material.Material, error) {
		i := slices.IndexFunc(d.Materials, func(m material.Material) bool { return m.ID == id })
		if i < 0 {
			return nil, fmt.Errorf("the material is not in this shot any more")
		}
		return &d.Materials[i], nil
	}
	from, err := find(e.Material)
	if err != nil {
		return "", err
	}
	source := from.Slot(e.Slot)
	if source == nil || *source == nil {
		return "", fmt.Errorf("there is no texture in %s of %s", e.Slot, from.Name)
	}
	if e.To == "" {
		*source = nil
		return fmt.Sprintf("Take the texture out of %s of %s", e.Slot, from.Name), nil
	}
	to, err := find(e.To)
	if err != nil {
		return "", err
	}
	target := to.Slot(e.ToSlot)
	if target == nil {
		return "", fmt.Errorf("there is no slot %q", e.ToSlot)
	}
	if source == target {
		return "", fmt.Errorf("it is there already")
	}
	moving, other := *source, *target
	w := &texturing{d: d, a: a, new: &model.Model{}}
	if material.Slot(e.ToSlot) == material.MetalRough && moving.Missing == "" {
		if img, err := w.picture(moving); err != nil {
			return "", err
		} else if img != nil && measurePixels(img).grey { // a picture of roughness alone
			whole, err := w.join(&material.Material{}, material.Roughness, img)
			if err != nil {
				return "", err
			}
			joined := *moving
			joined.Asset, joined.Image = "", w.add(model.Image{Name: "roughness.png", MIME: "image/png", Data: encode(whole)}).Image
			moving = &joined
			e.ToSlot = material.Roughness
		}
	}
	*source = other
	to.Fill(e.ToSlot, moving)
	words := fmt.Sprintf("Move a texture of %s to %s of %s", from.Name, e.ToSlot, to.Name)
	if len(w.new.Images) == 0 {
		return words, nil
	}
	return words, w.keep(a.KeepModel)
}

// Doubts lists textures that do not look like what their slot is for.
func Doubts(d *shot.Shot, a *Assets) []PlacedPicture {
	out := []PlacedPicture{}
	seen := map[string]bool{}
	used := map[string]bool{}
	for _, p := range d.Parts {
		for _, id := range p.Materials {
			used[id] = true
		}
	}
	for i := range d.Materials {
		m := &d.Materials[i]
		if !used[m.ID] {
			continue
		}
		for k, slot := range m.TextureSlots() {
			t := *slot
			if t == nil || t.Missing != "" {
				continue
			}
			key := fmt.Sprint(t.Asset, t.Image, k)
			if seen[key] {
				continue
			}
			seen[key] = true
			if file, why := a.Doubt(t, material.Slots[k]); why != "" {
				out = append(out, PlacedPicture{file, m.Name, material.Slots[k], why, true})
			}
		}
	}
	return out
}

// Doubt says why a texture does not look like what its slot is for, and what its file is called; nothing where it does.
func (a *Assets) Doubt(t *material.Texture, slot material.Slot) (file, why string) {
	l, err := a.stats(t)
	file = pictureName(a, t)
	switch {
	case err != nil: // what shows it says so
	case l.normal && slot != material.Normal && slot != material.CoatNormal:
		return file, "it looks like a normal map: mostly blue-violet, of unit length"
	case slot == material.Normal && !l.normal && l.grey:
		return file, "it is grey, like a bump or roughness map; a normal map is mostly blue-violet"
	case slot == material.Normal && !l.normal:
		return file, "its pixels are no unit vectors, as a normal map's are"
	}
	return file, ""
}

func pictureName(a *Assets, t *material.Texture) string {
	if m, err := a.Model(t.Asset); err == nil && t.Image < len(m.Images) && m.Images[t.Image].Name != "" {
		return m.Images[t.Image].Name
	}
	return "A picture"
}
