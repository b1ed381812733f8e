import * as THREE from "three";
import type { Shot, ShotReply } from "../api/types.gen";
import { clock } from "../state/clock";
import { useMeasures } from "../state/measures";
import { benchLayer, type Stage } from "./stage";

function colour(name: string): THREE.Color {
  return new THREE.Color(
    getComputedStyle(document.documentElement)
      .getPropertyValue("--" + name)
      .trim(),
  );
}

function line(points: THREE.Vector3[], color: THREE.Color, dash = 0): THREE.Line {
  const g = new THREE.BufferGeometry().setFromPoints(points);
  const m = dash
    ? new THREE.LineDashedMaterial({ color, dashSize: dash, gapSize: dash * 0.7 })
    : new THREE.LineBasicMaterial({ color });
  const l = new THREE.Line(g, m);
  if (dash) l.computeLineDistances();
  return l;
}

/** The way of a part's pivot, with a dot for each frame: the nearer they are, the slower it goes. */
function trail(stage: Stage, shot: Shot, id: string, group: THREE.Group) {
  const i = shot.parts.findIndex((p) => p.id === id);
  const part = shot.parts[i];
  if (!part || shot.frames > 2000) return;
  const points: THREE.Vector3[] = [];
  for (let f = 0; f < shot.frames; f++) {
    const m = stage.worldOf(i, f);
    if (!m) return;
    points.push(new THREE.Vector3(...part.pivot).applyMatrix4(m));
  }
  const first = points[0]!;
  if (points.every((p) => p.distanceToSquared(first) < 1e-12)) return;
  const color = colour("heather");
  group.add(line(shot.ending === "loop" ? [...points, first] : points, color));
  const dots = new THREE.Points(
    new THREE.BufferGeometry().setFromPoints(points),
    new THREE.PointsMaterial({ color, size: 4, sizeAttenuation: false }),
  );
  group.add(dots);
}

/**
 * What only the bench shows: the floor's grid in a round step, the turntable's axis and path, the
 * render camera's pyramid, and a frame round what is selected.
 */
export function drawHelpers(stage: Stage, reply: ShotReply, chosen: string[], swept: boolean) {
  const group = stage.helper;
  const moves = chosen.length > 0 || swept; // what is drawn depends on the frame
  const theme = document.documentElement.className;
  const measured = useMeasures.getState();
  const key = [
    reply.id,
    reply.version,
    stage.drawn,
    chosen.join(),
    theme,
    moves ? clock.frame : "",
    JSON.stringify([measured.points, measured.done]),
  ].join();
  if (group.userData.key === key) return;
  group.userData.key = key;
  for (const c of [...group.children]) {
    group.remove(c);
    const o = c as THREE.Line;
    o.geometry.dispose();
    (o.material as THREE.Material).dispose();
  }
  const shot = reply.document;
  const box = stage.bounds();
  if (box.isEmpty()) return;
  const size = box.getSize(new THREE.Vector3());
  const reach = Math.max(size.x, size.y, size.z);
  const step = Math.pow(10, Math.floor(Math.log10(reach / 2)));
  const cells = 2 * Math.ceil((reach * 1.6) / step);
  const grid = new THREE.GridHelper(cells * step, cells, colour("quiet"), colour("line"));
  const gm = grid.material as THREE.LineBasicMaterial;
  gm.transparent = true;
  gm.opacity = 0.55;
  gm.depthWrite = false;
  group.add(grid);

  const table = reply.shown.findIndex((p) => p.table);
  if (table >= 0) {
    const m = stage.worldOf(table, 0);
    if (m) {
      const at = new THREE.Vector3().setFromMatrixPosition(m);
      const top = at.clone().add(new THREE.Vector3(0, size.y * 1.2, 0));
      group.add(line([at, top], colour("verdigris"), reach / 40));
      const radius = reply.shown[table]!.carries ? 0 : Math.max(size.x, size.z) * 0.62;
      if (radius > 0) {
        const ring: THREE.Vector3[] = [];
        for (let i = 0; i <= 96; i++)
          ring.push(
            at
              .clone()
              .add(
                new THREE.Vector3(
                  radius * Math.sin((i / 48) * Math.PI),
                  step / 500,
                  radius * Math.cos((i / 48) * Math.PI),
                ),
              ),
          );
        group.add(line(ring, colour("brass"), reach / 40));
      }
    }
  }
  if (stage.cameraIndex >= 0 && reply.view) {
    const m = stage.worldOf(stage.cameraIndex, clock.frame);
    if (m) {
      const depth = reach * 0.28;
      const { width: w, height: h } = reply.view;
      const corner = (x: number, y: number) =>
        new THREE.Vector3(x * w * depth, y * h * depth, -depth).applyMatrix4(m);
      const eye = new THREE.Vector3().setFromMatrixPosition(m);
      const [a, b, c, d] = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
      group.add(line([eye, a!, b!, eye, c!, d!, eye, a!, d!, c!, b!], colour("ink")));
    }
    if (swept) {
      const path: THREE.Vector3[] = [];
      const n = Math.min(96, shot.frames);
      for (let i = 0; i <= n; i++) {
        const w = stage.worldOf(stage.cameraIndex, Math.floor((i * shot.frames) / n) % shot.frames);
        if (w) path.push(new THREE.Vector3().setFromMatrixPosition(w));
      }
      group.add(line(path, colour("brass"), reach / 40));
    }
  }
  for (const id of chosen.slice(-3)) trail(stage, shot, id, group);
  for (const l of [...measured.done.flatMap((m) => m.lines), measured.points])
    if (l.length > 1) {
      const drawn = line(l, colour("brass"));
      (drawn.material as THREE.Material).depthTest = false; // seen through what is in front
      drawn.renderOrder = 2;
      group.add(drawn);
    }
  for (const id of chosen) {
    const inside = new Set<string>([id]);
    for (const p of shot.parts) if (inside.has(p.parent)) inside.add(p.id);
    const b = stage.bounds((part) => inside.has(part));
    if (!b.isEmpty()) group.add(new THREE.Box3Helper(b.expandByScalar(reach * 0.004), colour("verdigris")));
  }
  group.traverse((o) => o.layers.set(benchLayer));
}
