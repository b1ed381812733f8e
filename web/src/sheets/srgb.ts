type Color = [number, number, number];

/** Colour pickers show sRGB; the document keeps scene-linear light (IEC 61966-2-1). */
export const toLinear = (c: Color): Color =>
  c.map((v) => (v <= 0.04045 ? v / 12.92 : Math.pow((v + 0.055) / 1.055, 2.4))) as Color;

export const fromLinear = (c: Color): Color =>
  c.map((v) =>
    Math.min(1, Math.max(0, v <= 0.0031308 ? v * 12.92 : 1.055 * Math.pow(v, 1 / 2.4) - 0.055)),
  ) as Color;
