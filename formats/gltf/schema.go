// Package gltf reads and writes glTF 2.0 and GLB (Khronos glTF 2.0 specification; section numbers in
// comments are its). The types of this file mirror the names of the specification word for word.
package gltf

import "encoding/json"

type document struct {
	Asset              asset           `json:"asset"`
	ExtensionsUsed     []string        `json:"extensionsUsed,omitempty"`
	ExtensionsRequired []string        `json:"extensionsRequired,omitempty"`
	Scene              *int            `json:"scene,omitempty"`
	Scenes             []scene         `json:"scenes,omitempty"`
	Nodes              []node          `json:"nodes,omitempty"`
	Meshes             []mesh          `json:"meshes,omitempty"`
	Materials          []material      `json:"materials,omitempty"`
	Textures           []texture       `json:"textures,omitempty"`
	Samplers           []sampler       `json:"samplers,omitempty"`
	Images             []image         `json:"images,omitempty"`
	Accessors          []accessor      `json:"accessors,omitempty"`
	BufferViews        []bufferView    `json:"bufferViews,omitempty"`
	Buffers            []buffer        `json:"buffers,omitempty"`
	Animations         []animation     `json:"animations,omitempty"`
	Skins              []skin          `json:"skins,omitempty"`
	Cameras            []named         `json:"cameras,omitempty"`
	Extensions         json.RawMessage `json:"extensions,omitempty"`
}

type asset struct {
	Version    string `json:"version"`
	MinVersion string `json:"minVersion,omitempty"`
	Generator  string `json:"generator,omitempty"`
}

type named struct {
	Name string `json:"name,omitempty"`
}

type skin struct {
	Name                string `json:"name,omitempty"`
	InverseBindMatrices *int   `json:"inverseBindMatrices,omitempty"`
	Joints              []int  `json:"joints"`
}

type animation struct {
	Name     string             `json:"name,omitempty"`
	Channels []animationChannel `json:"channels"`
	Samplers []animationSampler `json:"samplers"`
}

type animationChannel struct {
	Sampler int `json:"sampler"`
	Target  struct {
		Node *int   `json:"node,omitempty"`
		Path string `json:"path"`

		Extensions map[string]json.RawMessage `json:"extensions,omitempty"`
	} `json:"target"`
}

type animationSampler struct {
	Input         int    `json:"input"`
	Output        int    `json:"output"`
	Interpolation string `json:"interpolation,omitempty"`
}

type scene struct {
	Name  string `json:"name,omitempty"`
	Nodes []int  `json:"nodes,omitempty"`
}

type node struct {
	Name        string       `json:"name,omitempty"`
	Children    []int        `json:"children,omitempty"`
	Mesh        *int         `json:"mesh,omitempty"`
	Camera      *int         `json:"camera,omitempty"`
	Skin        *int         `json:"skin,omitempty"`
	Weights     []float64    `json:"weights,omitempty"`
	Matrix      *[16]float64 `json:"matrix,omitempty"`
	Translation *[3]float64  `json:"translation,omitempty"`
	Rotation    *[4]float64  `json:"rotation,omitempty"`
	Scale       *[3]float64  `json:"scale,omitempty"`

	Extensions map[string]json.RawMessage `json:"extensions,omitempty"`
}

type mesh struct {
	Name       string      `json:"name,omitempty"`
	Primitives []primitive `json:"primitives"`
	Weights    []float64   `json:"weights,omitempty"`

	Extras json.RawMessage `json:"extras,omitempty"`
}

type primitive struct {
	Attributes map[string]int   `json:"attributes"`
	Indices    *int             `json:"indices,omitempty"`
	Material   *int             `json:"material,omitempty"`
	Mode       *int             `json:"mode,omitempty"`
	Targets    []map[string]int `json:"targets,omitempty"`

	Extensions map[string]json.RawMessage `json:"extensions,omitempty"`
}

type material struct {
	Name                 string                     `json:"name,omitempty"`
	PBRMetallicRoughness *pbrMetallicRoughness      `json:"pbrMetallicRoughness,omitempty"`
	NormalTexture        *textureInfo               `json:"normalTexture,omitempty"`
	OcclusionTexture     *textureInfo               `json:"occlusionTexture,omitempty"`
	EmissiveTexture      *textureInfo               `json:"emissiveTexture,omitempty"`
	EmissiveFactor       *[3]float64                `json:"emissiveFactor,omitempty"`
	AlphaMode            string                     `json:"alphaMode,omitempty"`
	AlphaCutoff          *float64                   `json:"alphaCutoff,omitempty"`
	DoubleSided          bool                       `json:"doubleSided,omitempty"`
	Extensions           map[string]json.RawMessage `json:"extensions,omitempty"`
}

type pbrMetallicRoughness struct {
	BaseColorFactor          *[4]float64  `json:"baseColorFactor,omitempty"`
	BaseColorTexture         *textureInfo `json:"baseColorTexture,omitempty"`
	MetallicFactor           *float64     `json:"metallicFactor,omitempty"`
	RoughnessFactor          *float64     `json:"roughnessFactor,omitempty"`
	MetallicRoughnessTexture *textureInfo `json:"metallicRoughnessTexture,omitempty"`
}

type textureInfo struct {
	Index    int      `json:"index"`
	TexCoord int      `json:"texCoord,omitempty"`
	Scale    *float64 `json:"scale,omitempty"`    // normal textures
	Strength *float64 `json:"strength,omitempty"` // occlusion textures

	Extensions map[string]json.RawMessage `json:"extensions,omitempty"`
}

type texture struct {
	Sampler *int `json:"sampler,omitempty"`
	Source  *int `json:"source,omitempty"`

	Extensions map[string]json.RawMessage `json:"extensions,omitempty"`
}

type sampler struct {
	MagFilter int `json:"magFilter,omitempty"`
	MinFilter int `json:"minFilter,omitempty"`
	WrapS     int `json:"wrapS,omitempty"`
	WrapT     int `json:"wrapT,omitempty"`
}

type image struct {
	Name       string `json:"name,omitempty"`
	URI        string `json:"uri,omitempty"`
	MimeType   string `json:"mimeType,omitempty"`
	BufferView *int   `json:"bufferView,omitempty"`
}

type accessor struct {
	BufferView    *int      `json:"bufferView,omitempty"`
	ByteOffset    int       `json:"byteOffset,omitempty"`
	ComponentType int       `json:"componentType"`
	Normalized    bool      `json:"normalized,omitempty"`
	Count         int       `json:"count"`
	Type          string    `json:"type"`
	Max           []float64 `json:"max,omitempty"`
	Min           []float64 `json:"min,omitempty"`
	Sparse        *sparse   `json:"sparse,omitempty"`
}

type sparse struct {
	Count   int `json:"count"`
	Indices struct {
		BufferView    int `json:"bufferView"`
		ByteOffset    int `json:"byteOffset"`
		ComponentType int `json:"componentType"`
	} `json:"indices"`
	Values struct {
		BufferView int `json:"bufferView"`
		ByteOffset int `json:"byteOffset"`
	} `json:"values"`
}

type bufferView struct {
	Buffer     int `json:"buffer"`
	ByteOffset int `json:"byteOffset,omitempty"`
	ByteLength int `json:"byteLength"`
	ByteStride int `json:"byteStride,omitempty"`
	Target     int `json:"target,omitempty"`
}

type buffer struct {
	URI        string `json:"uri,omitempty"`
	ByteLength int    `json:"byteLength"`
}

// Component types (3.6.2.2) and primitive modes (3.7.2.1).
const (
	typeByte          = 5120
	typeUnsignedByte  = 5121
	typeShort         = 5122
	typeUnsignedShort = 5123
	typeUnsignedInt   = 5125
	typeFloat         = 5126

	modeTriangles     = 4
	modeTriangleStrip = 5
	modeTriangleFan   = 6

	targetArrayBuffer        = 34962
	targetElementArrayBuffer = 34963

	wrapClamp  = 33071
	wrapMirror = 33648
)
