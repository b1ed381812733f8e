import type { Edit, ShotReply } from "../api/types.gen";
import { texturesOf } from "./textureSlots";

export interface Finding {
  weight: "blocks" | "look" | "note";
  title: string;
  why: string;
  part?: string;
  frame?: number;
  mends: { words: string; edit: Edit }[];
}

/** What the core measured, as a list of what a designer has to look at. */
export function findings(shot: ShotReply): Finding[] {
  const d = shot.document;
  const name = (id: string) => d.parts.find((p) => p.id === id)?.name ?? "a part";
  const out: Finding[] = [];
  const camera = d.parts.find((p) => p.id === d.camera);
  if (!camera)
    out.push({
      weight: "blocks",
      title: "No camera",
      why: "There is no camera to render through.",
      mends: [],
    });
  for (const c of shot.closings)
    if (!c.closes) {
      const gap = shot.seam.find((g) => g.part === c.part);
      out.push({
        weight: "blocks",
        title: `${name(c.part)} jumps at the seam`,
        why: `It ${c.words}${gap ? `, ${gap.pixels.toFixed(1)} px in the picture` : ""}. The loop would hitch once each time round.`,
        part: c.part,
        frame: 0,
        mends: c.mends,
      });
    }
  const m = shot.margins;
  if (!m)
    out.push({
      weight: "blocks",
      title: "Nothing to see",
      why: "Every part is hidden, or there is none.",
      mends: [],
    });
  else if (m.tightest < 0)
    out.push({
      weight: "blocks",
      title: `Cut off at the ${m.side}`,
      why: `On frame ${Math.round(m.frame)} something reaches ${(-m.tightest).toFixed(1)} % over the ${m.side} edge of the picture.`,
      frame: m.frame,
      mends: fit(),
    });
  else if (camera?.camera && m.tightest < camera.camera.margin - 0.05)
    out.push({
      weight: "look",
      title: `Within the margin at the ${m.side}`,
      why: `On frame ${Math.round(m.frame)} only ${m.tightest.toFixed(1)} % are left, and ${camera.camera.margin} % are to be kept clear.`,
      frame: m.frame,
      mends: fit(),
    });
  if (m && m.tightest >= 0 && m.filled < 40)
    out.push({
      weight: "look",
      title: "Much of the picture is empty",
      why: `Over the whole move the object uses ${m.filled.toFixed(0)} % of the picture.`,
      mends: fit(),
    });
  if (shot.wobble !== null && shot.wobble > 1e-4)
    out.push({
      weight: "look",
      title: "The turntable wobbles",
      why: `The middle of what turns is ${(shot.wobble * 1000).toPrecision(3)} mm off the axis.`,
      mends: [],
    });
  const missing = new Map<string, string>();
  for (const o of d.materials)
    for (const [, t] of texturesOf(o)) if (t?.missing) missing.set(t.missing, o.name);
  for (const [file, material] of missing)
    out.push({
      weight: "look",
      title: `Missing: ${file}`,
      why: `${material} refers to it, and it did not come along. A bold checker stands in for a missing base colour; other textures are left out. Bring in finds it when you point to its folder.`,
      mends: [],
    });
  for (const r of shot.reports) {
    for (const w of r.warnings) out.push({ weight: "note", title: r.file, why: w, mends: [] });
  }
  return out;

  function fit(): { words: string; edit: Edit }[] {
    if (!camera?.camera || camera.camera.fitted) return [];
    return [
      {
        words: "Fit the camera",
        edit: { setPart: { part: { ...camera, camera: { ...camera.camera, fitted: true } } } },
      },
    ];
  }
}
