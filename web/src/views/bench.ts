import * as THREE from "three";
import type { Part, Shot, ShotReply } from "../api/types.gen";
import { clock } from "../state/clock";
import { evidenceNow } from "../state/evidence";
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

/** The corners of a circle of a radius in the plane across z. */
const round = (r: number, n = 48) =>
  Array.from(
    { length: n + 1 },
    (_, k) => new THREE.Vector3(r * Math.sin((k / n) * 2 * Math.PI), r * Math.cos((k / n) * 2 * Math.PI), 0),
  );

/** What a cutter takes away, stitched round. A slab goes on for ever; it is drawn as far as the scene reaches. */
function cutter(part: Part, m: THREE.Matrix4, on: boolean, reach: number): THREE.Group {
  const g = new THREE.Group();
  const { shape, size, radius = 0 } = part.cut!;
  const put = (points: THREE.Vector3[]) =>
    g.add(
      line(
        points.map((p) => p.clone().applyMatrix4(m)),
        colour(on ? "verdigris" : "coral"),
        reach / 50,
      ),
    );
  const v = (x: number, y: number, z: number) => new THREE.Vector3(x, y, z);
  const ring = (r: number, y: number) => put(round(r).map((p) => v(p.x, y, p.y)));
  if (shape === "sphere") {
    put(round(radius));
    ring(radius, 0);
    put(round(radius).map((p) => v(0, p.x, p.y)));
  } else if (shape === "cylinder") {
    for (const y of [-size[1] / 2, size[1] / 2]) ring(radius, y);
    for (const [x, z] of [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ] as const)
      put([v(x * radius, -size[1] / 2, z * radius), v(x * radius, size[1] / 2, z * radius)]);
  } else {
    const [w, h, d] = shape === "slab" ? [reach, size[1] / 2, reach] : size.map((x) => x / 2);
    for (const y of [-h!, h!])
      put([v(-w!, y, -d!), v(w!, y, -d!), v(w!, y, d!), v(-w!, y, d!), v(-w!, y, -d!)]);
    for (const [x, z] of [
      [1, 1],
      [-1, 1],
      [1, -1],
      [-1, -1],
    ] as const)
      put([v(x * w!, -h!, z * d!), v(x * w!, h!, z * d!)]);
  }
  g.add(pressed(part, reach * 0.05, m));
  return g;
}

/** Something that only the bench shows, and that is pressed to select its part. */
function pressed(part: Part, size: number, m: THREE.Matrix4): THREE.Mesh {
  const mesh = new THREE.Mesh(
    new THREE.SphereGeometry(size, 8, 6),
    new THREE.MeshBasicMaterial({ transparent: true, opacity: 0, depthWrite: false }),
  );
  mesh.position.setFromMatrixPosition(m);
  mesh.updateMatrixWorld();
  mesh.userData.part = part.id;
  return mesh;
}

/** A light where it stands, as large as it is, with the way that it shines. */
function lamp(part: Part, m: THREE.Matrix4, on: boolean, reach: number): THREE.Group {
  const l = part.light!;
  const g = new THREE.Group();
  const color = colour(on ? "verdigris" : "brass");
  const put = (points: THREE.Vector3[], dash = 0) =>
    g.add(
      line(
        points.map((p) => p.applyMatrix4(m)),
        color,
        dash,
      ),
    );
  const v = (x: number, y: number, z: number) => new THREE.Vector3(x, y, z);
  const way = (from: number) => put([v(0, 0, -from), v(0, 0, -from - reach * 0.18)], reach / 60);
  let size = reach * 0.05;
  if (!l.kind) {
    const [w, h] = [(l.width ?? 0) / 2, (l.height ?? 0) / 2];
    put([v(-w, -h, 0), v(w, -h, 0), v(w, h, 0), v(-w, h, 0), v(-w, -h, 0)]);
    size = Math.max(size, Math.min(w, h));
    way(0);
  } else if (l.kind === "sun") {
    put(round(reach * 0.05, 24));
    for (const [x, y] of [
      [0, 0],
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ] as const)
      put([v(x * reach * 0.05, y * reach * 0.05, 0), v(x * reach * 0.05, y * reach * 0.05, -reach * 0.2)]);
  } else {
    const r = l.radius ?? 0;
    put(round(r));
    size = Math.max(size, r);
    if (l.kind !== "disc") {
      put(round(r).map((p) => v(p.x, 0, p.y)));
      put(round(r).map((p) => v(0, p.x, p.y)));
    } else way(0);
    if (l.kind === "spot") {
      const far = reach * 0.4;
      const wide = far * Math.tan(Math.min(l.outer ?? 0.5, 1.5));
      put(round(wide).map((p) => v(p.x, p.y, -far)));
      for (const [x, y] of [
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
      ] as const)
        put([v(0, 0, 0), v(x * wide, y * wide, -far)]);
    }
  }
  g.add(pressed(part, size, m));
  return g;
}

/** The way that a part's front looks, as an arrow that leaves its box. */
function frontArrow(front: Part["front"], m: THREE.Matrix4, box: THREE.Box3, reach: number): THREE.Line {
  const way = new THREE.Vector3(...front!).transformDirection(m);
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  const from = box.getCenter(new THREE.Vector3());
  from.y = box.min.y;
  from.addScaledVector(way, Math.abs(way.x) * half.x + Math.abs(way.y) * half.y + Math.abs(way.z) * half.z);
  const side = new THREE.Vector3(-way.z, 0, way.x);
  if (side.lengthSq() < 1e-6) side.set(1, 0, 0);
  side.setLength(reach * 0.02);
  const tip = from.clone().addScaledVector(way, reach * 0.12);
  const neck = from.clone().addScaledVector(way, reach * 0.08);
  return line([from, tip, neck.clone().add(side), tip, neck.clone().sub(side)], colour("verdigris"));
}

/** The ways of what a group is taken apart into: from where each part belongs to where it goes, with an arrow there. */
function plan(stage: Stage, shot: Shot, id: string, group: THREE.Group, reach: number) {
  for (const move of shot.parts.find((p) => p.id === id)?.moves ?? []) {
    const data = move["take apart"];
    if (!data || move.muted) continue;
    const gone = new Map<string, THREE.Vector3>(); // by earlier steps of the same part
    for (const step of data.steps)
      for (const { part: name, way } of step.parts) {
        const i = shot.parts.findIndex((p) => p.id === name);
        const part = shot.parts[i];
        const up = part && shot.parts.findIndex((p) => p.id === part.parent);
        const [now, above] = [stage.worldOf(i, clock.frame), stage.worldOf(up ?? -1, clock.frame)];
        const inside = new Set<string>([name]);
        for (const p of shot.parts) if (inside.has(p.parent)) inside.add(p.id);
        const box = stage.bounds((q) => inside.has(q));
        if (!part || !now || !above || box.isEmpty()) continue;
        const centre = box.getCenter(new THREE.Vector3()).applyMatrix4(now.clone().invert());
        const rest = new THREE.Matrix4().compose(
          new THREE.Vector3(...part.rest.position).add(new THREE.Vector3(...part.pivot)),
          new THREE.Quaternion(...part.rest.rotation),
          new THREE.Vector3(...part.rest.size),
        );
        const seat = centre
          .sub(new THREE.Vector3(...part.pivot))
          .applyMatrix4(rest)
          .applyMatrix4(above);
        const along = new THREE.Vector3(...way)
          .transformDirection(above)
          .multiplyScalar(step.by * data.spread);
        const from = seat.add(gone.get(name) ?? new THREE.Vector3());
        const to = from.clone().add(along);
        gone.set(name, (gone.get(name) ?? new THREE.Vector3()).clone().add(along));
        const neck = to.clone().addScaledVector(along.clone().normalize(), -reach * 0.03);
        const side = new THREE.Vector3(along.y, along.z, along.x).cross(along).setLength(reach * 0.012);
        for (const l of [
          line([from, to], colour("heather"), reach / 60),
          line([neck.clone().add(side), to, neck.sub(side)], colour("heather")),
        ]) {
          (l.material as THREE.Material).depthTest = false;
          l.renderOrder = 2;
          group.add(l);
        }
      }
  }
}

/** A camera that is not in use: a small pyramid. */
function otherCamera(part: Part, m: THREE.Matrix4, on: boolean, reach: number): THREE.Group {
  const g = new THREE.Group();
  const { sensorWidth, sensorHeight, focal } = part.camera!;
  const depth = reach * 0.16;
  const [w, h] = [((sensorWidth / focal) * depth) / 2, ((sensorHeight / focal) * depth) / 2];
  const v = (x: number, y: number, z: number) => new THREE.Vector3(x, y, z).applyMatrix4(m);
  const [e, a, b, c, d] = [
    v(0, 0, 0),
    v(-w, -h, -depth),
    v(w, -h, -depth),
    v(w, h, -depth),
    v(-w, h, -depth),
  ];
  g.add(line([e, a, b, e, c, d, e, a, d, c, b], colour(on ? "verdigris" : "quiet")));
  g.add(pressed(part, reach * 0.06, m));
  return g;
}

/**
 * What only the bench shows: the floor's grid in a round step, the turntable's axis and path, the
 * render camera's pyramid, and a frame round what is selected.
 */
export function drawHelpers(stage: Stage, reply: ShotReply, chosen: string[], swept: boolean) {
  const group = stage.helper;
  const moves = chosen.length > 0 || swept || reply.lights.length > 0; // what is drawn depends on the frame
  const theme = document.documentElement.className;
  const measured = useMeasures.getState();
  const marks = evidenceNow();
  const key = [
    reply.id,
    reply.version,
    stage.drawn,
    chosen.join(),
    theme,
    moves ? clock.frame : "",
    JSON.stringify([measured.points, measured.done, marks]),
  ].join();
  if (group.userData.key === key) return;
  group.userData.key = key;
  // Materials go once those that take their places have been drawn: else their programs would be made anew each time, which takes longer
  // than all that is drawn.
  const spent = (group.userData.spent ?? []) as THREE.Material[];
  for (const m of spent.splice(0)) m.dispose();
  group.userData.spent = spent;
  for (const c of [...group.children]) {
    group.remove(c);
    c.traverse((o) => {
      const l = o as THREE.Line;
      l.geometry?.dispose();
      if (l.material) spent.push(l.material as THREE.Material);
    });
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
  for (const [i, part] of shot.parts.entries()) {
    if (reply.shown[i]!.hidden || reply.shown[i]!.away) continue;
    const m = stage.worldOf(i, clock.frame);
    if (!m) continue;
    const on = chosen.includes(part.id);
    if (part.cut && !(part.cut.shape === "part")) group.add(cutter(part, m, on, reach));
    if (part.light) group.add(lamp(part, m, on, reach));
    else if (part.camera && i !== stage.cameraIndex) group.add(otherCamera(part, m, on, reach));
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
  for (const id of chosen) plan(stage, shot, id, group, reach);
  for (const id of chosen.slice(-3)) trail(stage, shot, id, group);
  const found = marks.map((m) => m.room.map((p) => new THREE.Vector3(...(p as [number, number, number]))));
  for (const l of [...measured.done.flatMap((m) => m.lines), measured.points, ...found])
    if (l.length > 1) {
      const drawn = line(l, colour(found.includes(l) ? "coral" : "brass"));
      (drawn.material as THREE.Material).depthTest = false; // seen through what is in front
      drawn.renderOrder = 2;
      group.add(drawn);
    }
  for (const id of chosen) {
    const inside = new Set<string>([id]);
    for (const p of shot.parts) if (inside.has(p.parent)) inside.add(p.id);
    const b = stage.bounds((part) => inside.has(part));
    if (b.isEmpty()) continue;
    const i = shot.parts.findIndex((p) => p.id === id);
    const m = shot.parts[i]?.front && stage.worldOf(i, clock.frame);
    if (m) group.add(frontArrow(shot.parts[i]!.front, m, b, reach));
    group.add(new THREE.Box3Helper(b.expandByScalar(reach * 0.004), colour("verdigris")));
  }
  group.traverse((o) => o.layers.set(benchLayer));
}
