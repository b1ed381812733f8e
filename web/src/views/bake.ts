/** The baked motion of a shot: see server/bake.go for the layout. */
export interface Bake {
  frames: number;
  parts: number;
  animated: Uint32Array; // indices of the parts that move
  place: Int32Array; // of each part in animated, or -1
  still: Float32Array; // 16 numbers a part: its world matrix on frame 0, by columns
  moving: Float32Array; // for each frame the matrices of the animated parts
  spreads: Spread[];
  flexes: FlexBake[];
  looks: Map<number, LookBake>; // by part
  weights: Map<number, (frame: number) => Float32Array>; // of morph targets, by part
  guides: ((frame: number) => Float32Array)[]; // lines from where parts sit: points of the room
  labels: LabelBake[];
}

/** A label of the picture; lengths are shares of its shorter side, from the upper left corner. */
export interface LabelBake {
  dark: boolean;
  letters: string; // path data, in thousandths of an em from where the text begins
  size: number; // of an em
  at: (frame: number) => Float32Array; // where the text begins, three points of its line, how much of it is there
}

/** What bends or twists the meshes of a part, or has them follow a cage. */
export interface FlexBake {
  part: number;
  twist: boolean;
  cage?: { n: [number, number, number]; size: Float32Array; points: Float32Array }; // of each frame; its low corner is the base

  axis: number;
  towards: number;
  in: Float32Array; // from the part's frame to that of the flex
  base: Float32Array; // and length
  angles: Float32Array; // of each frame
}

/** How a part looks: base colour and its share, glow and its share, opacity, strength. */
export interface LookBake {
  fades: boolean;
  at: (frame: number) => Float32Array;
}

/** A part that is shown many times: its places in the frame of the copies part. */
export interface Spread {
  spread: number; // the copies part
  part: number; // the part that is copied
  copies: number;
  places: Float32Array; // 16 numbers each, of one set or of one for each frame
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
    const [spread, part, copies, sets] = [0, 4, 8, 12].map((o) => words.getUint32(at + o, true)) as [
      number,
      number,
      number,
      number,
    ];
    spreads.push({ spread, part, copies, places: new Float32Array(data, at + 16, 16 * copies * sets) });
    at += 16 + 64 * copies * sets;
  }
  const word = () => words.getUint32((at += 4) - 4, true);
  const list = (n: number) => new Float32Array(data, (at += 4 * n) - 4 * n, n);
  const flexes: FlexBake[] = [];
  for (let k = word(); k > 0; k--) {
    const [part, kind, axis, towards] = [word(), word(), word(), word()];
    if (kind === 2) {
      const at = list(16);
      const base = list(4);
      const n: [number, number, number] = [base[3]!, axis, towards];
      const size = list(4);
      const points = list(3 * n[0] * n[1] * n[2] * frames);
      flexes.push({
        part,
        twist: false,
        cage: { n, size, points },
        axis: 0,
        towards: 1,
        in: at,
        base,
        angles: size,
      });
      continue;
    }
    flexes.push({
      part,
      twist: kind === 1,
      axis,
      towards,
      in: list(16),
      base: list(4),
      angles: list(frames),
    });
  }
  const looks = new Map<number, LookBake>();
  for (let k = word(); k > 0; k--) {
    const part = word();
    const all = list(10 * frames);
    let fades = false;
    for (let f = 0; f < frames; f++) fades ||= all[10 * f + 8]! < 1;
    looks.set(part, {
      fades,
      at: (f) => all.subarray(10 * Math.min(f, frames - 1), 10 * Math.min(f, frames - 1) + 10),
    });
  }
  const weights: Bake["weights"] = new Map();
  for (let k = word(); k > 0; k--) {
    const [part, targets] = [word(), word()];
    const all = list(targets * frames);
    weights.set(part, (f) =>
      all.subarray(targets * Math.min(f, frames - 1), targets * Math.min(f, frames - 1) + targets),
    );
  }
  const lines = Array.from({ length: word() }, () => 3 * word());
  const texts = Array.from({ length: word() }, () => {
    const dark = word() === 1;
    const long = word();
    const letters = new TextDecoder().decode(new Uint8Array(data, at, long));
    at += 4 * Math.ceil(long / 4);
    return { dark, letters, size: list(1)[0]! };
  });
  const numbers = [...lines, ...texts.map(() => 9)]; // of each, for a frame
  const each = numbers.reduce((a, b) => a + b, 0);
  const all = list(each * frames);
  let from = 0;
  const courses = numbers.map((n) => {
    const first = from;
    from += n;
    return (f: number) => {
      const begins = each * Math.min(f, frames - 1) + first;
      return all.subarray(begins, begins + n);
    };
  });
  const guides: Bake["guides"] = courses.slice(0, lines.length);
  const labels: LabelBake[] = texts.map((t, k) => ({ ...t, at: courses[lines.length + k]! }));
  return { frames, parts, animated, place, still, moving, spreads, flexes, looks, weights, guides, labels };
}

/** The matrix of part i on a frame. */
export function matrixAt(b: Bake, part: number, frame: number): Float32Array {
  const k = b.place[part] ?? -1;
  if (k < 0) return b.still.subarray(16 * part, 16 * part + 16);
  const at = 16 * (Math.min(frame, b.frames - 1) * b.animated.length + k);
  return b.moving.subarray(at, at + 16);
}
