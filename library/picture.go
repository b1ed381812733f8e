package library

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // the two kinds of picture that glTF allows
	"image/png"

	_ "golang.org/x/image/bmp" // others are turned into PNG
	_ "golang.org/x/image/tiff"
	_ "golang.org/x/image/webp"

	"perigyre/core/color"
	"perigyre/core/model"
)

var (
	errNoPicture = errors.New("it is no picture that can be read")
	errDamaged   = errors.New("it is damaged")
)

// decode decodes a picture whose size is within the limits, which is looked at first.
func decode(name string, data []byte, limits model.Limits) (img image.Image, kind string, err error) {
	defer func() { // of a decoder
		if p := recover(); p != nil {
			img, err = nil, errDamaged
		}
	}()
	c, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, "", errNoPicture
	}
	if err := limits.CheckPicture(name, c.Width, c.Height); err != nil {
		return nil, "", err
	}
	if img, _, err = image.Decode(bytes.NewReader(data)); err != nil {
		return nil, "", errDamaged
	}
	return img, kind, nil
}

// picture checks an image, to its last pixel, and turns kinds that browsers do not show into PNG. One that cannot be
// decoded counts as missing: the model is still worth having.
func picture(m *model.Model, img *model.Image, limits model.Limits) (image.Image, error) {
	if len(img.Data) == 0 {
		return nil, nil
	}
	decoded, kind, err := decode(img.Name, img.Data, limits)
	if errors.Is(err, errNoPicture) || errors.Is(err, errDamaged) {
		m.Missing = append(m.Missing, fmt.Sprintf("%s (%v)", img.Name, err))
		img.Data = nil
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	img.MIME = "image/" + kind
	if kind == "png" || kind == "jpeg" {
		return decoded, nil
	}
	var b bytes.Buffer
	if err := png.Encode(&b, color.Straight(decoded)); err != nil {
		return nil, err
	}
	img.Data, img.MIME = b.Bytes(), "image/png"
	return decoded, nil
}
