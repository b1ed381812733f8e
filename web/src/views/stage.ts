import * as THREE from "three";
import { GLTFLoader, type GLTF } from "three/addons/loaders/GLTFLoader.js";
import type { Material, Part, Shape, ShotReply, FramingView } from "../api/types.gen";
import { clock } from "../state/clock";
import { say } from "../state/notices";
import { matrixAt, type Bake } from "./bake";
import { meanChord } from "./chord";
import { fleshTo, setFlesh } from "./flesh";
import { flexTo, setFlex, type Dragged } from "./flex";
import { Lighting } from "./lighting";
import { lookOn } from "./look";
import { Caps, type Solid } from "./caps";
import { Peel } from "./peel";
import { Cuts, setCuts } from "./cuts";
import { toThree } from "./materials";
import { plain } from "./plain";

/** What the bench shows and the picture does not, and the other way round. */
export const benchLayer = 1;
export const pictureLayer = 2;

interface Placed {
  part: Part;
  index: number;
  object: THREE.Object3D;
  key: string; // of what its looks depend on
}

/**
 * The three.js scene of one shot. It follows the document and the baked motion: every part lies
 * directly in the scene with the world matrix that the core worked out.
 */
export class Stage {
  readonly scene = new THREE.Scene();
  readonly camera = new THREE.PerspectiveCamera(); // the render camera
  readonly helper = new THREE.Group(); // drawn in the bench only
  cameraIndex = -1;
  hasFloor = false;
  drawn = 0; // grows whenever something new can be drawn
  previews = 0; // grows with every preview of handles
  pictureKey = ""; // what the picture that stands on the canvas shows

  private placed = new Map<string, Placed>();
  private copies: THREE.Group[] = [];
  private indices = new Map<string, number>(); // of parts, by id
  private last: { reply: ShotReply; bake: Bake } | null = null;
  private caged: { ids: Set<string>; by: Dragged } | null = null; // while points of a cage are dragged
  private moved: { ids: Set<string>; matrix: THREE.Matrix4 } | null = null; // while handles are dragged
  private assets = new Map<string, Promise<GLTF>>();
  private bake: Bake | undefined;
  private lighting: Lighting;
  private catcher: THREE.Mesh;
  private edges = { area: { value: new THREE.Vector4(0, 0, 1, 1) }, fade: { value: 0 } };
  private cuts = new Cuts();
  private caps: Caps;
  private peel = new Peel();
  private guides = new THREE.LineSegments(
    new THREE.BufferGeometry(),
    new THREE.LineBasicMaterial({ color: new THREE.Color(0.45, 0.45, 0.45) }), // as core/render/guide.go has it
  );
  private waiting = 0;
  private changing = false; // some light moves or changes
  private changed: () => void;

  constructor(renderer: THREE.WebGLRenderer, changed: () => void) {
    this.lighting = new Lighting(this.scene, renderer, () => {
      if (this.last) this.update(this.last.reply, this.last.bake);
    });
    this.changed = changed;
    this.caps = new Caps(this.scene, this.cuts);
    this.camera.matrixAutoUpdate = false;
    this.camera.layers.enable(pictureLayer);
    this.scene.add(this.camera, this.helper);
    const shadow = new THREE.ShadowMaterial({ opacity: 0.22 });
    // It comes in from the picture's edges as the renderer's does: see inside in core/render/pass.go.
    shadow.onBeforeCompile = (s) => {
      Object.assign(s.uniforms, this.edges);
      s.fragmentShader = s.fragmentShader
        .replace("uniform float opacity;", "uniform float opacity; uniform vec4 area; uniform float fade;")
        .replace(
          "#include <tonemapping_fragment>",
          `vec2 p = gl_FragCoord.xy - area.xy;
          float near = min( min( p.x, area.z - p.x ), min( p.y, area.w - p.y ) );
          if ( fade > 0.0 ) gl_FragColor.a *= smoothstep( 0.0, 1.0, near / ( min( area.z, area.w ) * fade ) );
          #include <tonemapping_fragment>`,
        );
    };
    this.catcher = new THREE.Mesh(new THREE.PlaneGeometry(1, 1).rotateX(-Math.PI / 2), shadow);
    this.catcher.receiveShadow = true;
    this.catcher.visible = false;
    this.guides.frustumCulled = false;
    this.scene.add(this.catcher, this.guides);
  }

  /** Whether every mesh has arrived. */
  get ready() {
    return this.waiting === 0 && this.bake !== undefined;
  }

  update(reply: ShotReply, bake: Bake) {
    const shot = reply.document;
    if (bake !== this.last?.bake) this.caged = null;
    this.last = { reply, bake };
    this.moved = null;
    this.pictureKey = "";
    this.bake = bake.parts === shot.parts.length ? bake : undefined; // one of them is older; the newer follows
    const materials = new Map(shot.materials.map((m) => [m.id, m]));
    const seen = new Set<string>();
    this.indices = new Map(shot.parts.map((p, i) => [p.id, i]));
    this.hasFloor = false;
    shot.parts.forEach((part, index) => {
      const how = reply.shown[index]!;
      if (how.floor) this.hasFloor = !how.hidden;
      if (!part.mesh && !how.shape) return;
      seen.add(part.id);
      const mine = (how.materials ?? []).map((id) => materials.get(id));
      const tinted = mine.some((m) => m?.attenuationDistance);
      const flesh = [!!part.skin, part.morphs?.length];
      const key = JSON.stringify([
        part.mesh,
        how.shape,
        flesh,
        mine,
        tinted && this.scaleOf(index).toPrecision(4),
      ]);
      let p = this.placed.get(part.id);
      if (!p || p.key !== key) {
        if (p) this.drop(p);
        p = { part, index, object: new THREE.Group(), key };
        p.object.matrixAutoUpdate = false;
        p.object.userData.part = part.id;
        this.scene.add(p.object);
        this.placed.set(part.id, p);
        void this.fill(p, mine, how.shape);
      }
      p.part = part;
      p.index = index;
      p.object.visible = !how.hidden;
      p.object.userData.away = how.away;
    });
    for (const [id, p] of this.placed)
      if (!seen.has(id)) {
        this.drop(p);
        this.placed.delete(id);
      }
    this.cuts.update(reply);
    for (const p of this.placed.values()) this.flex(p);
    this.spread(reply);
    this.cap();
    this.cameraIndex = shot.parts.findIndex((p) => p.id === shot.camera);
    this.changing = shot.parts.some(
      (p, i) => (p.light || p.id === shot.environment.bound) && (bake.looks.has(i) || bake.place[i]! >= 0),
    );
    this.lightUp(reply, this.changing ? clock.frame : 0);
    this.drawn++;
    this.changed();
  }

  /** Takes a part out, and with it the points that its bones moved. */
  private drop(p: Placed) {
    this.scene.remove(p.object);
    for (const c of p.object.children) {
      if (c.userData.flesh) (c as THREE.Mesh).geometry.dispose();
      (c.userData.flexPoints as THREE.DataTexture | undefined)?.dispose();
    }
  }

  private async fill(p: Placed, materials: (Material | undefined)[], shape: Shape | undefined) {
    this.waiting++;
    try {
      const meshes = p.part.mesh ? await this.mesh(p.part) : await this.made(shape);
      meshes.forEach((geometry, k) => {
        const colours = geometry.hasAttribute("color");
        const m = materials[k];
        const material = m
          ? toThree(
              m,
              colours,
              m.attenuationDistance ? meanChord(geometry) * this.scaleOf(p.index) : 0,
              () => {
                this.pictureKey = "";
                this.changed();
              },
            )
          : new THREE.MeshStandardMaterial({
              color: 0xcccccc,
              roughness: 0.5,
              side: THREE.DoubleSide,
              vertexColors: colours,
            });
        const mesh = new THREE.Mesh(geometry, material);
        mesh.castShadow = mesh.receiveShadow = !plain;
        mesh.userData.part = p.part.id;
        mesh.raycast = THREE.Mesh.prototype.raycast;
        setFlesh(mesh, p.part);
        p.object.add(mesh);
      });
      this.flex(p);
    } catch (e) {
      say(`${p.part.name} cannot be shown: ${(e as Error).message}`);
    } finally {
      this.waiting--;
      if (this.waiting === 0 && this.last) {
        if (this.last.bake.spreads.length > 0) this.spread(this.last.reply);
        this.cap();
      }
      this.drawn++;
      this.changed();
    }
  }

  private flex(p: Placed) {
    const list = this.bake?.flexes.filter((f) => f.part === p.index) ?? [];
    const on = this.last ? this.cuts.of(this.last.reply.document, p.part.id) : [];
    for (const c of p.object.children) {
      setFlex(c as THREE.Mesh, list);
      setCuts(c as THREE.Mesh, this.cuts, on);
    }
  }

  /** Takes over what has faces where it is cut. */
  private cap() {
    const copies = this.copies.map((object) => ({ id: object.userData.of as string, object }));
    const solids: Solid[] = [...this.placed.values()].map((p) => ({ id: p.part.id, object: p.object }));
    this.caps.update(this.last!.reply, [...solids, ...copies], (id) => this.placed.get(id)?.object);
  }

  private load(url: string): Promise<GLTF> {
    let g = this.assets.get(url);
    if (!g) {
      g = new GLTFLoader().loadAsync(url);
      this.assets.set(url, g);
    }
    return g;
  }

  private async mesh(part: Part): Promise<THREE.BufferGeometry[]> {
    const gltf = await this.load(`/api/assets/${part.mesh!.asset}.glb`);
    return geometries((await gltf.parser.getDependency("mesh", part.mesh!.mesh)) as THREE.Object3D);
  }

  private async made(shape: Shape | undefined): Promise<THREE.BufferGeometry[]> {
    const gltf = await this.load(`/api/shapes?of=${encodeURIComponent(JSON.stringify(shape))}`);
    return geometries(gltf.scene);
  }

  /** Shows copies: one instanced mesh for each mesh that is copied. */
  private spread({ document: shot, shown }: ShotReply) {
    const spreads = this.bake?.spreads ?? [];
    for (const c of this.copies) this.scene.remove(c);
    this.copies = [];
    for (const s of spreads) {
      const source = this.placed.get(shot.parts[s.part]?.id ?? "");
      const holder = shot.parts[s.spread];
      if (!source || !holder || shown[s.spread]!.hidden) continue;
      const group = new THREE.Group();
      group.matrixAutoUpdate = false;
      group.userData = {
        part: holder.id,
        of: source.part.id,
        index: s.spread,
        places: s.places,
        copies: s.copies,
      };
      const n = s.copies;
      for (const child of source.object.children) {
        const m = child as THREE.Mesh<THREE.BufferGeometry, THREE.Material>;
        const many = new THREE.InstancedMesh(m.geometry, m.material, n);
        many.instanceMatrix.array.set(s.places.subarray(0, 16 * n));
        many.instanceMatrix.needsUpdate = true;
        many.castShadow = many.receiveShadow = !plain;
        many.userData.part = holder.id;
        many.computeBoundingBox();
        group.add(many);
      }
      this.copies.push(group);
      this.scene.add(group);
    }
  }

  /** Draws shadows coarser, for a machine that cannot keep up, or as finely as they are drawn else. */
  coarse(on: boolean) {
    this.lighting.coarse(on);
    this.pictureKey = "";
  }

  /** Lights the shot as it is on a frame. */
  private lightUp(reply: ShotReply, frame: number) {
    if (!this.bake || !this.lighting.update(reply, this.bake, frame, () => this.bounds())) return;
    this.pictureKey = "";
    const box = this.bounds();
    this.catcher.scale.setScalar(20 * (box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length()));
  }

  /** The place of a part in the document, -1 for none. */
  private indexOf = (id: string): number => this.indices.get(id) ?? -1;

  /** Puts every part where it is on a frame. */
  pose(frame: number) {
    const b = this.bake;
    if (!b) return;
    const cutter = (part: number) => {
      const m = this.worldOf(part, frame);
      const id = this.last?.reply.document.parts[part]?.id ?? "";
      return m && this.moved?.ids.has(id) ? m.premultiply(this.moved.matrix) : m;
    };
    this.cuts.pose(cutter);
    if (this.changing && clock.playing === 0 && this.last) this.lightUp(this.last.reply, frame); // costs too much while it plays
    for (const p of this.placed.values()) {
      const look = b.looks.get(p.index);
      for (const c of p.object.children) {
        lookOn(c as THREE.Mesh, look, frame);
        flexTo(c as THREE.Mesh, frame, b, this.caged?.ids.has(p.part.id) ? this.caged.by : undefined);
        if (c.userData.flesh) fleshTo(c as THREE.Mesh, p.part, p.index, this.indexOf, frame, b);
      }
      p.object.matrix.fromArray(matrixAt(b, p.index, frame));
      if (this.moved?.ids.has(p.part.id)) p.object.matrix.premultiply(this.moved.matrix);
      p.object.matrixWorldNeedsUpdate = true;
    }
    for (const c of this.copies) {
      const { places, copies } = c.userData as { places: Float32Array; copies: number };
      if (places.length > 16 * copies && c.userData.frame !== frame) {
        c.userData.frame = frame;
        const at = 16 * copies * Math.min(frame, b.frames - 1);
        for (const many of c.children as THREE.InstancedMesh[]) {
          many.instanceMatrix.array.set(places.subarray(at, at + 16 * copies));
          many.instanceMatrix.needsUpdate = true;
          many.frustumCulled = false; // its bounds are those of frame 0
        }
      }
      c.matrix.fromArray(matrixAt(b, c.userData.index as number, frame));
      if (this.moved?.ids.has(c.userData.part as string)) c.matrix.premultiply(this.moved.matrix);
      c.matrixWorldNeedsUpdate = true;
    }
    this.caps.pose((part) => {
      const cut = this.last?.reply.document.parts[part]?.cut;
      return cutter(cut?.shape === "part" ? this.indexOf(cut.of!) : part);
    });
    this.guide(frame);
    if (this.cameraIndex >= 0) {
      this.camera.matrix.fromArray(matrixAt(b, this.cameraIndex, frame));
      this.camera.matrixWorldNeedsUpdate = true;
    }
  }

  /** Draws the lines from where parts that are taken apart sit to where they are. */
  private guide(frame: number) {
    const b = this.bake!;
    this.guides.visible = b.guides.length > 0;
    if (!this.guides.visible) return;
    const ends: number[] = [];
    for (const g of b.guides) {
      const line = g(frame);
      for (let k = 3; k < line.length; k += 3) ends.push(...line.subarray(k - 3, k + 3));
    }
    this.guides.geometry.dispose();
    this.guides.geometry = new THREE.BufferGeometry().setAttribute(
      "position",
      new THREE.Float32BufferAttribute(ends, 3),
    );
  }

  /** Chooses the camera that the picture is seen through: the one in use, or another. */
  lookThrough({ document: shot }: ShotReply, other: string | null) {
    const id = other ?? shot.camera;
    if (shot.parts[this.cameraIndex]?.id !== id) this.cameraIndex = shot.parts.findIndex((p) => p.id === id);
  }

  /** Stands the picture's camera somewhere, until the next pose. */
  standAt(position: readonly number[], rotation: readonly number[]) {
    const one = new THREE.Vector3(1, 1, 1);
    const at = new THREE.Vector3().fromArray(position as number[]);
    this.camera.matrix.compose(at, new THREE.Quaternion().fromArray(rotation as number[]), one);
    this.camera.matrixWorldNeedsUpdate = true;
  }

  worldOf(part: number, frame: number): THREE.Matrix4 | undefined {
    return this.bake && part < this.bake.parts
      ? new THREE.Matrix4().fromArray(matrixAt(this.bake, part, frame))
      : undefined;
  }

  /** How many metres of the room a unit of a part's own frame is, on the mean. */
  private scaleOf(part: number): number {
    return Math.cbrt(Math.abs(this.worldOf(part, 0)?.determinant() ?? 1));
  }

  /** Shows parts moved by a matrix in the room, until the truth arrives or null is given. */
  preview(ids: Set<string> | null, matrix = new THREE.Matrix4()) {
    this.moved = ids && { ids, matrix };
    this.previews++;
    this.changed();
  }

  /** Shows what is in a cage with points of it dragged, until the truth arrives or null is given. */
  previewCage(part: string, by: Dragged | null) {
    const ids = new Set([part]);
    for (const p of this.last?.reply.document.parts ?? []) if (ids.has(p.parent)) ids.add(p.id);
    this.caged = by && { ids, by };
    this.previews++;
    this.changed();
  }

  /** Shows the sky behind the picture where the shot asks for it, and nothing behind the bench. */
  showSky(on: boolean) {
    this.scene.background = on && this.last?.reply.document.environment.seen ? this.lighting.behind : null;
  }

  /** Finds where cutters of other parts' shapes are, before a view is drawn into a rectangle of a canvas or target of a size in pixels. */
  lookFrom(
    gl: THREE.WebGLRenderer,
    camera: THREE.Camera,
    width: number,
    height: number,
    view: THREE.Vector4,
  ) {
    this.scene.updateMatrixWorld();
    const meshes = this.cuts.shapes.map((id) => this.placed.get(id)?.object.children ?? []);
    this.peel.look(gl, meshes, camera, width, height, view);
    const u = this.cuts.uniforms;
    u.cutDepths.value = this.peel.depths.value;
    u.cutView.value.copy(view);
    u.cutRays.value.multiplyMatrices(camera.matrixWorld, camera.projectionMatrixInverse);
  }

  /** Hides what is put away, for the bench, or shows it again. */
  putAway(on: boolean) {
    for (const p of this.placed.values())
      for (const c of p.object.children) c.visible = !(on && p.object.userData.away);
    this.caps.putAway(on);
  }

  /** Aims the lens: what it sees, as the core works it out. */
  aim({ width, height, x, y, flat }: FramingView) {
    const box = this.bounds();
    const at = new THREE.Vector3().setFromMatrixPosition(this.camera.matrix);
    const centre = box.isEmpty() ? new THREE.Vector3() : box.getCenter(new THREE.Vector3());
    const size = box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length();
    const far = at.distanceTo(centre) + size * 2;
    const near = Math.max(far / 2000, at.distanceTo(centre) - size * 2);
    if (flat) this.camera.projectionMatrix.makeOrthographic(-width, width, height, -height, near, far);
    else
      this.camera.projectionMatrix.makePerspective(
        (x - width) * near,
        (x + width) * near,
        (y + height) * near,
        (y - height) * near,
        near,
        far,
      );
    Object.assign(this.camera, { isPerspectiveCamera: !flat, isOrthographicCamera: flat }); // the shaders ask for it
    this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
  }

  /** The box round all visible parts as they are now. */
  bounds(only?: (id: string) => boolean): THREE.Box3 {
    const box = new THREE.Box3();
    for (const [id, p] of this.placed) {
      if (!p.object.visible || (only ? !only(id) : p.part.kind === "floor")) continue;
      p.object.updateWorldMatrix(false, true);
      for (const child of p.object.children) {
        const g = (child as THREE.Mesh).geometry;
        if (!g.boundingBox) g.computeBoundingBox();
        box.union(g.boundingBox!.clone().applyMatrix4(child.matrixWorld));
      }
    }
    for (const c of this.copies) {
      if (only && !only(c.userData.part as string)) continue;
      c.updateWorldMatrix(false, true);
      for (const child of c.children)
        box.union((child as THREE.InstancedMesh).boundingBox!.clone().applyMatrix4(child.matrixWorld));
    }
    return box;
  }

  /** Says where on the canvas the picture lies, in its pixels. */
  lieAt(x: number, y: number, width: number, height: number) {
    this.edges.area.value.set(x, y, width, height);
    this.edges.fade.value = this.last?.reply.shown.find((p) => p.floor)?.fade ?? 0;
  }

  showShadow(on: boolean) {
    this.catcher.visible = on && this.hasFloor && !plain;
  }

  /** What the bench alone draws of lights and cameras, to be pressed. */
  handles(): THREE.Object3D[] {
    const out: THREE.Object3D[] = [];
    this.helper.traverse((o) => {
      if (o.userData.part) out.push(o);
    });
    return out;
  }

  objects(): THREE.Object3D[] {
    return [
      ...[...this.placed.values()]
        .filter((p) => p.object.visible && !p.object.userData.away)
        .map((p) => p.object),
      ...this.copies,
    ];
  }

  dispose() {
    this.lighting.dispose();
    this.peel.dispose();
    for (const p of this.placed.values())
      p.object.traverse((o) => {
        if (o instanceof THREE.Mesh) (o.material as THREE.Material).dispose();
      });
  }
}

function geometries(object: THREE.Object3D): THREE.BufferGeometry[] {
  const out: THREE.BufferGeometry[] = [];
  object.traverse((o) => {
    if (o instanceof THREE.Mesh) out.push(o.geometry as THREE.BufferGeometry);
  });
  return out;
}
