/** What a run can be asked for. */
export const qualities = [
  { value: "draft", name: "draft", note: "direct light, for timing" },
  { value: "proof", name: "proof", note: "32 samples" },
  { value: "final", name: "final", note: "as many samples as each place needs" },
  { value: "exact", name: "exact", note: "1024 samples, nothing clamped" },
];

export const formats: {
  value: string;
  name: string;
  note: string;
  bits: { value: number; name: string }[];
}[] = [
  {
    value: "png",
    name: "PNG",
    note: "straight alpha",
    bits: [
      { value: 8, name: "8 bit" },
      { value: 16, name: "16 bit" },
    ],
  },
  {
    value: "exr",
    name: "EXR",
    note: "scene-linear, associated alpha, passes",
    bits: [
      { value: 16, name: "half, 16 bit" },
      { value: 32, name: "float, 32 bit" },
    ],
  },
  { value: "tga", name: "TGA", note: "straight alpha", bits: [{ value: 8, name: "8 bit" }] },
  {
    value: "tiff",
    name: "TIFF",
    note: "straight alpha",
    bits: [
      { value: 8, name: "8 bit" },
      { value: 16, name: "16 bit" },
    ],
  },
  { value: "jpeg", name: "JPEG", note: "no alpha: needs a backdrop", bits: [{ value: 8, name: "8 bit" }] },
];

export const passes = [
  "depth",
  "position",
  "normal",
  "camera normal",
  "albedo",
  "emission",
  "direct diffuse",
  "direct specular",
  "indirect diffuse",
  "indirect specular",
  "shadow",
  "occlusion",
  "motion",
  "matte",
  "part mattes",
];
