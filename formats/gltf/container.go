package gltf

import (
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"net/url"
	"path"
	"strings"

	"perigyre/core/model"
)

const (
	glbMagic  = 0x46546C67 // "glTF"
	chunkJSON = 0x4E4F534A
	chunkBIN  = 0x004E4942
)

// IsGLB reports whether the data begin as a binary glTF (4.4.2 "Header").
func IsGLB(data []byte) bool {
	return len(data) >= 4 && binary.LittleEndian.Uint32(data) == glbMagic
}

// split returns the JSON and the binary chunk of a GLB, or the data itself and nothing for a .gltf.
func split(data []byte) (json, bin []byte, err error) {
	if !IsGLB(data) {
		return data, nil, nil
	}
	if len(data) < 12 {
		return nil, nil, fmt.Errorf("the file ends after %d bytes, within its header; it was not copied whole", len(data))
	}
	if v := binary.LittleEndian.Uint32(data[4:]); v != 2 {
		return nil, nil, fmt.Errorf("it is glTF version %d; only version 2 is read", v)
	}
	if total := binary.LittleEndian.Uint32(data[8:]); int64(total) > int64(len(data)) {
		return nil, nil, fmt.Errorf("its header promises %d bytes, but the file has %d; it was not copied whole", total, len(data))
	}
	for at := 12; at+8 <= len(data); {
		length, kind := int(binary.LittleEndian.Uint32(data[at:])), binary.LittleEndian.Uint32(data[at+4:])
		at += 8
		if length > len(data)-at {
			return nil, nil, fmt.Errorf("a chunk at byte %d promises %d bytes, but only %d follow", at-8, length, len(data)-at)
		}
		switch kind {
		case chunkJSON:
			json = data[at : at+length]
		case chunkBIN:
			if bin == nil {
				bin = data[at : at+length]
			}
		}
		at += length
	}
	if json == nil {
		return nil, nil, fmt.Errorf("it has no JSON chunk")
	}
	return json, bin, nil
}

// resource returns what a URI of the document stands for: embedded data, or a file beside it. The
// name is for messages. A URI that leaves the model's own folder is refused.
func resource(uri string, files model.Files) (data []byte, name string, found bool, err error) {
	if strings.HasPrefix(uri, "data:") {
		head, body, ok := strings.Cut(uri, ",")
		if !ok || !strings.HasSuffix(head, ";base64") {
			return nil, "embedded data", false, fmt.Errorf("embedded data that are not base64")
		}
		data, err := base64.StdEncoding.DecodeString(body)
		if err != nil {
			if data, err = base64.RawStdEncoding.DecodeString(strings.TrimRight(body, "=")); err != nil {
				return nil, "embedded data", false, fmt.Errorf("embedded data that are not base64: %w", err)
			}
		}
		return data, "embedded data", true, nil
	}
	if decoded, err := url.PathUnescape(uri); err == nil {
		uri = decoded
	}
	uri = strings.ReplaceAll(uri, `\`, "/")
	clean := path.Clean(uri)
	if strings.Contains(uri, "://") || path.IsAbs(clean) || clean == ".." || strings.HasPrefix(clean, "../") || strings.Contains(clean, ":") {
		return nil, uri, false, fmt.Errorf("it refers to %q, which is outside its own folder", uri)
	}
	if files != nil {
		data, found = files(clean)
	}
	return data, clean, found, nil
}
