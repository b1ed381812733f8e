import * as THREE from "three";
import type { LightSpec, Shot, ShotReply } from "../api/types.gen";
import { say } from "../state/notices";
import { matrixAt, type Bake } from "./bake";
import { plain } from "./plain";
import { loadSky, skyPicture, type Sky } from "./sky";

/** What lights a shot in the views: its surroundings with the softboxes, its lamps, and one light that throws a shadow. */
export class Lighting {
  behind: THREE.Texture | null = null; // the sky, where it is seen

  private sun = new THREE.DirectionalLight();
  private lamps = new THREE.Group(); // bulbs, spots and suns of the shot
  private key = ""; // of what everything here follows from
  private skies = new Map<string, Sky | undefined>();
  private blur: THREE.PMREMGenerator; // kept: to compile its shaders takes longer than to draw with them
  private surroundings: ReturnType<THREE.PMREMGenerator["fromEquirectangular"]> | null = null;
  private scene: THREE.Scene;
  private come: () => void; // a picture of surroundings has

  constructor(scene: THREE.Scene, renderer: THREE.WebGLRenderer, come: () => void) {
    this.scene = scene;
    this.come = come;
    this.blur = new THREE.PMREMGenerator(renderer);
    scene.add(this.sun, this.sun.target, this.lamps);
    this.sun.castShadow = !plain;
    this.coarse(false);
    this.sun.shadow.radius = 6;
    this.sun.shadow.normalBias = 0.02;
  }

  /** The picture of the surroundings, once it has come. */
  private sky(hash: string | undefined): Sky | undefined {
    if (!hash) return undefined;
    if (!this.skies.has(hash)) {
      this.skies.set(hash, undefined);
      loadSky(hash).then(
        (s) => {
          this.skies.set(hash, s);
          this.key = "";
          this.come();
        },
        (e: unknown) => say((e as Error).message),
      );
    }
    return this.skies.get(hash);
  }

  /**
   * Puts the sky and the softboxes into the environment, and gives the largest one a shadow. The box is that round all that
   * is lit. Returns whether anything has become other.
   */
  update({ document: shot, shown }: ShotReply, b: Bake, frame: number, bounds: () => THREE.Box3): boolean {
    const lights = shot.parts
      .map((part, i) => ({ part, i }))
      .filter((l) => l.part.light && !shown[l.i]!.hidden)
      .map((l) => ({ ...l, light: lookedAt(l.part.light!, b.looks.get(l.i)?.at(frame)) }));
    const turn = skyTurn(shot, b, frame);
    const key = JSON.stringify([
      shot.environment,
      turn.toArray().map((v) => v.toFixed(4)),
      lights.map((l) => [l.light, [...matrixAt(b, l.i, frame)].map((v) => v.toFixed(6))]),
    ]);
    if (key === this.key) return false;
    this.key = key;
    const centre = new THREE.Vector3();
    const box = bounds();
    if (!box.isEmpty()) box.getCenter(centre);
    const size = box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length();
    this.lamps.clear();
    for (const l of lights) {
      const lamp = lampOf(l.light);
      if (!lamp || plain) continue;
      const m = new THREE.Matrix4().fromArray(matrixAt(b, l.i, frame));
      lamp.position.setFromMatrixPosition(m);
      if (lamp instanceof THREE.SpotLight || lamp instanceof THREE.DirectionalLight) {
        lamp.target.position.copy(lamp.position).sub(new THREE.Vector3().setFromMatrixColumn(m, 2));
        this.lamps.add(lamp.target);
      }
      this.lamps.add(lamp);
    }
    const boxes = lights.flatMap((l) => {
      if (l.light.kind && l.light.kind !== "disc") return [];
      const m = new THREE.Matrix4().fromArray(matrixAt(b, l.i, frame));
      const at = new THREE.Vector3().setFromMatrixPosition(m);
      const { color, strength } = l.light;
      const side = Math.sqrt(Math.PI) * (l.light.radius ?? 0); // of the square as large as a disc
      const [width, height] = l.light.kind ? [side, side] : [l.light.width ?? 0, l.light.height ?? 0];
      const reach = (width * height * strength) / Math.max(1e-9, at.distanceToSquared(centre));
      return [{ m, at, width, height, color, strength, reach }];
    });
    const main = boxes.reduce<(typeof boxes)[number] | undefined>(
      (a, b) => (a && a.reach >= b.reach ? a : b),
      undefined,
    );
    this.sun.visible = main !== undefined && !plain;
    if (main) {
      const part = 0.45; // of the largest softbox comes as a light with a shadow, the rest from the environment
      this.sun.position.copy(main.at);
      this.sun.target.position.copy(centre);
      this.sun.color.setRGB(...main.color);
      this.sun.intensity = plain ? 0 : main.reach * part;
      if (!plain) main.strength *= 1 - part;
      const c = this.sun.shadow.camera;
      const distance = main.at.distanceTo(centre);
      Object.assign(c, {
        left: -size,
        right: size,
        top: size,
        bottom: -size,
        near: Math.max(distance - size, size / 100),
        far: distance + size,
      });
      c.updateProjectionMatrix();
    }
    const sky = this.sky(shot.environment.picture);
    const picture = skyPicture(shot.environment, boxes, centre, sky, 256, turn);
    this.surroundings = this.blur.fromEquirectangular(picture, this.surroundings); // all skies are of one size
    this.scene.environment = this.surroundings.texture;
    picture.dispose();
    this.behind?.dispose();
    this.behind = shot.environment.seen ? skyPicture(shot.environment, [], centre, sky, 1024, turn) : null;
    return true;
  }

  /** Throws the shadow coarser, or as finely as else. */
  coarse(on: boolean) {
    const s = this.sun.shadow;
    s.mapSize.setScalar(on ? 512 : 2048);
    s.map?.dispose();
    s.map = null;
  }

  dispose() {
    this.surroundings?.dispose();
    this.behind?.dispose();
    this.blur.dispose();
  }
}

/** A bulb, spot or sun with the irradiance that the core gives it; softboxes are in the environment. */
function lampOf(l: LightSpec): THREE.Light | null {
  const color = new THREE.Color().setRGB(...l.color);
  const candela = l.strength * Math.PI * (l.radius ?? 0) ** 2;
  switch (l.kind) {
    case "bulb":
      return new THREE.PointLight(color, candela);
    case "spot":
      return new THREE.SpotLight(
        color,
        candela,
        0,
        Math.min(l.outer!, Math.PI / 2 - 1e-3),
        1 - l.inner! / l.outer!,
      );
    case "sun":
      return new THREE.DirectionalLight(color, l.strength * Math.PI * Math.sin(l.angle! / 2) ** 2);
  }
  return null;
}

/** How the surroundings are turned, as core/scene has it: with what they are bound to, about the upright, and raised. */
function skyTurn(shot: Shot, b: Bake, frame: number): THREE.Quaternion {
  const e = shot.environment;
  const q = new THREE.Quaternion()
    .setFromAxisAngle(new THREE.Vector3(0, 1, 0), e.turn ?? 0)
    .multiply(new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(1, 0, 0), e.raised ?? 0));
  const i = e.bound ? shot.parts.findIndex((p) => p.id === e.bound) : -1;
  if (i < 0) return q;
  const turn = new THREE.Quaternion();
  new THREE.Matrix4()
    .fromArray(matrixAt(b, i, frame))
    .decompose(new THREE.Vector3(), turn, new THREE.Vector3());
  return turn.multiply(q);
}

/** A light as moves make it look. */
function lookedAt(l: LightSpec, v: Float32Array | undefined): LightSpec {
  if (!v) return l;
  return {
    ...l,
    strength: l.strength * v[9]!,
    color: [0, 1, 2].map((k) => Math.max(0, l.color[k]! + (v[k]! - l.color[k]!) * v[3]!)) as [
      number,
      number,
      number,
    ],
  };
}
