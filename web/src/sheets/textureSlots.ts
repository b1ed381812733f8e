import type { Material, Texture } from "../api/types.gen";

/** The places for textures of a material (core/material), those that every material shows first. */
export const slots = [
  ["base colour", "baseColorTexture"],
  ["roughness and metal", "metallicRoughnessTexture"],
  ["normal", "normalTexture"],
  ["occlusion", "occlusionTexture"],
  ["emission", "emissiveTexture"],
  ["specular", "specularTexture"],
  ["specular colour", "specularColorTexture"],
  ["transmission", "transmissionTexture"],
  ["clearcoat", "clearcoatTexture"],
  ["clearcoat roughness", "clearcoatRoughnessTexture"],
  ["clearcoat normal", "clearcoatNormalTexture"],
  ["sheen colour", "sheenColorTexture"],
  ["sheen roughness", "sheenRoughnessTexture"],
] as const satisfies [string, keyof Material][];

/** The slots to show of a material: the usual five, and of the others those that are filled. */
export function slotsOf(m: Material) {
  return slots.filter(([, key], i) => i < 5 || m[key]);
}

/** The textures that a material has, with the names of their slots. */
export function texturesOf(m: Material): [string, Texture][] {
  return slots.flatMap(([name, key]) => {
    const t = m[key] as Texture | null | undefined;
    return t ? [[name, t] as [string, Texture]] : [];
  });
}
