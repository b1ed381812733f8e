import * as THREE from "three";
import { send } from "../api/client";
import type { Environment } from "../api/types.gen";

interface Box {
  m: THREE.Matrix4;
  width: number;
  height: number;
  color: [number, number, number];
  strength: number;
}

/**
 * The environment as an equirectangular picture seen from a point: the sky of three colours, linear in
 * the sine of the elevation as in the renderer, with the softboxes in it.
 */
export function skyPicture(
  e: Environment,
  boxes: Box[],
  from: THREE.Vector3,
  picture?: Sky,
  width = 256,
  turn = new THREE.Quaternion(), // from its own frame to the room
): THREE.DataTexture {
  const height = width / 2;
  const data = new Float32Array(width * height * 4);
  const lights = boxes.map((b) => ({
    centre: new THREE.Vector3().setFromMatrixPosition(b.m).sub(from),
    right: new THREE.Vector3().setFromMatrixColumn(b.m, 0).normalize(),
    up: new THREE.Vector3().setFromMatrixColumn(b.m, 1).normalize(),
    normal: new THREE.Vector3().setFromMatrixColumn(b.m, 2).normalize().negate(),
    ...b,
  }));
  const back = turn.clone().invert();
  const d = new THREE.Vector3();
  const q = new THREE.Vector3();
  for (let y = 0; y < height; y++) {
    const latitude = ((y + 0.5) / height - 0.5) * Math.PI; // from the bottom up
    for (let x = 0; x < width; x++) {
      const longitude = ((x + 0.5) / width - 0.5) * 2 * Math.PI;
      d.set(
        Math.cos(latitude) * Math.cos(longitude),
        Math.sin(latitude),
        Math.cos(latitude) * Math.sin(longitude),
      );
      const own = d.clone().applyQuaternion(back);
      const far = own.y >= 0 ? e.zenith : e.ground;
      const k = Math.abs(own.y);
      const c = picture
        ? lookUp(picture, Math.atan2(own.z, own.x), Math.asin(Math.min(1, Math.max(-1, own.y))), e.strength)
        : [0, 1, 2].map((i) => (e.horizon[i]! * (1 - k) + far[i]! * k) * e.strength);
      for (const l of lights) {
        const cos = -d.dot(l.normal);
        const t = -l.centre.dot(l.normal) / cos;
        if (cos <= 0 || t <= 0) continue;
        q.copy(d).multiplyScalar(t).sub(l.centre);
        if (Math.abs(q.dot(l.right)) < l.width / 2 && Math.abs(q.dot(l.up)) < l.height / 2)
          for (let i = 0; i < 3; i++) c[i] = l.color[i]! * l.strength;
      }
      data.set([c[0]!, c[1]!, c[2]!, 1], 4 * (y * width + x));
    }
  }
  const out = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, THREE.FloatType);
  out.mapping = THREE.EquirectangularReflectionMapping;
  out.magFilter = out.minFilter = THREE.LinearFilter;
  out.wrapS = THREE.RepeatWrapping;
  out.needsUpdate = true;
  return out;
}

/** A small picture of the surroundings: r, g, b from the top, as the server sends it. */
export interface Sky {
  width: number;
  height: number;
  pix: Float32Array;
}

export async function loadSky(hash: string): Promise<Sky> {
  const data = await (await send(`/api/skies/${hash}`)).arrayBuffer();
  const [width, height] = new Uint32Array(data, 0, 2) as unknown as [number, number];
  return { width, height, pix: new Float32Array(data, 8) };
}

function lookUp(s: Sky, longitude: number, latitude: number, strength: number): number[] {
  const u = longitude / (2 * Math.PI) + 0.5;
  const x = Math.floor((u - Math.floor(u)) * s.width) % s.width;
  const y = Math.min(s.height - 1, Math.max(0, Math.floor((0.5 - latitude / Math.PI) * s.height)));
  return [0, 1, 2].map((k) => s.pix[3 * (y * s.width + x) + k]! * strength);
}
