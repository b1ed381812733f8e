package shot

// NamedFormat is a format by the name that people have for it.
type NamedFormat struct {
	Name string `json:"name"`
	Format
}

// Formats are the usual ones.
var Formats = []NamedFormat{
	{"square", Format{1080, 1080}},
	{"wide", Format{1920, 1080}},
	{"wide, 4K", Format{3840, 2160}},
	{"phone, story", Format{1080, 1920}},
	{"portrait", Format{1080, 1350}},
	{"cinema", Format{2048, 858}},
}
