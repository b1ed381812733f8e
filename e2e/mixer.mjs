// node mixer.mjs PARTS FRAMES: seconds that three's animation mixer takes for as many parts, each with a linear
// or cubic place and a turn of five keys, and for the world matrices. The least of five runs.
import * as THREE from "three";

const [parts, frames] = process.argv.slice(2).map(Number);
const times = [0, 1, 2.5, 6, 10];
for (const how of [THREE.InterpolateLinear, THREE.InterpolateSmooth]) {
  const root = new THREE.Group();
  const tracks = [];
  for (let i = 0; i < parts; i++) {
    const o = new THREE.Object3D();
    o.name = "p" + i;
    root.add(o);
    tracks.push(new THREE.VectorKeyframeTrack(`p${i}.position`, times, times.flatMap((t) => [t + i, Math.sin(t), -t]), how));
    tracks.push(new THREE.QuaternionKeyframeTrack(`p${i}.quaternion`, times, times.flatMap((t) => [0, Math.sin(t / 4), 0, Math.cos(t / 4)])));
  }
  const mixer = new THREE.AnimationMixer(root);
  mixer.clipAction(new THREE.AnimationClip("c", 10, tracks)).play();
  let best = Infinity;
  for (let run = 0; run < 5; run++) {
    const start = process.hrtime.bigint();
    for (let f = 0; f < frames; f++) {
      mixer.setTime((f / frames) * 10);
      root.updateMatrixWorld(true);
    }
    best = Math.min(best, Number(process.hrtime.bigint() - start) / 1e9);
  }
  console.log(best);
}
