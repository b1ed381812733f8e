import * as THREE from "three";
import type { LookBake } from "./bake";

interface Own {
  color: THREE.Color;
  emissive?: THREE.Color;
  opacity: number;
  transparent: boolean;
}

const mixed = (to: THREE.Color, own: THREE.Color, v: Float32Array, share: number) =>
  to.setRGB(
    ...([0, 1, 2].map((k) => Math.max(0, own.toArray()[k]! + (v[k]! - own.toArray()[k]!) * share)) as [
      number,
      number,
      number,
    ]),
  );

/** Shows a mesh as moves make it look on a frame, or as it is by itself. */
export function lookOn(mesh: THREE.Mesh, look: LookBake | undefined, frame: number) {
  const m = mesh.material as THREE.MeshPhysicalMaterial;
  let own = m.userData.own as Own | undefined;
  if (!look && !own) return;
  if (!own) {
    own = {
      color: m.color.clone(),
      emissive: m.emissive?.clone(),
      opacity: m.opacity,
      transparent: m.transparent,
    };
    m.userData.own = own;
  }
  const v = look?.at(frame);
  const transparent = own.transparent || (look?.fades ?? false);
  if (m.transparent !== transparent) {
    m.transparent = transparent;
    m.needsUpdate = true;
  }
  if (!v) {
    m.color.copy(own.color);
    if (own.emissive) m.emissive.copy(own.emissive);
    m.opacity = own.opacity;
    return;
  }
  mixed(m.color, own.color, v.subarray(0, 3), v[3]!);
  if (own.emissive) mixed(m.emissive, own.emissive, v.subarray(4, 7), v[7]!).multiplyScalar(v[9]!);
  m.opacity = own.opacity * v[8]!;
}
