/** The baked motion of a shot: see server/bake.go for the layout. */
export interface Bake {
  frames: number;
  parts: number;
  animated: Uint32Array; // indices of the parts that move
  place: Int32Array; // of each part in animated, or -1
  still: Float32Array; // 16 numbers a part: its world matrix on frame 0, by columns
  moving: Float32Array; // for each frame the matrices of the animated parts
  spreads: Spread[];
}

/** A part that is shown many times: its places in the frame of the copies part. */
export interface Spread {
  spread: number; // the copies part
  part: number; // the part that is copied
  places: Float32Array; // 16 numbers each
}

const magic = 0x31424750;

export function parseBake(data: ArrayBuffer): Bake {
  const head = new Uint32Array(data, 0, 4);
  if (head[0] !== magic)
    throw new Error("The baked motion is not in the form that this page reads. Reload the page.");
  const [, frames, parts, count] = head as unknown as [number, number, number, number];
  const animated = new Uint32Array(data, 16, count);
  const place = new Int32Array(parts).fill(-1);
  animated.forEach((part, k) => (place[part] = k));
  const still = new Float32Array(data, 16 + 4 * count, 16 * parts);
  const moving = new Float32Array(data, 16 + 4 * count + 64 * parts, 16 * count * frames);
  let at = 16 + 4 * count + 64 * parts + 64 * count * frames;
  const words = new DataView(data);
  const spreads: Spread[] = [];
  const number = words.getUint32(at, true);
  at += 4;
  for (let k = 0; k < number; k++) {
    const [spread, part, places] = [0, 4, 8].map((o) => words.getUint32(at + o, true)) as [
      number,
      number,
      number,
    ];
    spreads.push({ spread, part, places: new Float32Array(data, at + 12, 16 * places) });
    at += 12 + 64 * places;
  }
  return { frames, parts, animated, place, still, moving, spreads };
}

/** The matrix of part i on a frame. */
export function matrixAt(b: Bake, part: number, frame: number): Float32Array {
  const k = b.place[part] ?? -1;
  if (k < 0) return b.still.subarray(16 * part, 16 * part + 16);
  const at = 16 * (Math.min(frame, b.frames - 1) * b.animated.length + k);
  return b.moving.subarray(at, at + 16);
}
