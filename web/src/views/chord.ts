import * as THREE from "three";

/**
 * How far a ray goes through a closed body on the mean, in units of its mesh: four times its volume over its surface, which
 * is Cauchy's formula for convex bodies and near it for others.
 */
export function meanChord(g: THREE.BufferGeometry): number {
  const known = g.userData.chord as number | undefined;
  if (known !== undefined) return known;
  const p = g.getAttribute("position");
  const [a, b, c] = [new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3()];
  let [volume, surface] = [0, 0];
  const n = g.index?.count ?? p.count;
  const at = (k: number) => g.index?.getX(k) ?? k;
  for (let k = 0; k + 2 < n; k += 3) {
    a.fromBufferAttribute(p, at(k));
    b.fromBufferAttribute(p, at(k + 1)).sub(a);
    c.fromBufferAttribute(p, at(k + 2)).sub(a);
    b.cross(c);
    volume += a.dot(b) / 6;
    surface += b.length() / 2;
  }
  return (g.userData.chord = surface > 0 ? (4 * Math.abs(volume)) / surface : 0);
}
