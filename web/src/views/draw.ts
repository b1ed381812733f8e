import * as THREE from "three";
import type { FramingView, ShotReply } from "../api/types.gen";
import { clock } from "../state/clock";
import { useUi } from "../state/ui";
import { drawHelpers } from "./bench";
import { useBench } from "./benchStore";
import type { Stage } from "./stage";

/** Contrasts of film, as in core/color; they go to the shader in the place of an exposure. */
const films: Record<string, number> = { "film, low contrast": 1.05, film: 1.25, "film, high contrast": 1.5 };
THREE.ShaderChunk.tonemapping_pars_fragment = THREE.ShaderChunk.tonemapping_pars_fragment.replace(
  "vec3 CustomToneMapping( vec3 color ) { return color; }",
  `vec3 CustomToneMapping( vec3 color ) {
    vec3 p = pow( max( color, vec3( 0.0 ) ), vec3( toneMappingExposure ) );
    return p / ( p + pow( 0.18, toneMappingExposure ) * 0.82 / 0.18 );
  }`,
);

/** Renders both views, each into its own rectangle of the canvas. */
export function draw(
  gl: THREE.WebGLRenderer,
  stage: Stage,
  eye: THREE.PerspectiveCamera,
  shot: ShotReply,
  holder: HTMLElement,
  picture: HTMLElement,
  bench: HTMLElement,
  chosen: string[],
) {
  const all = holder.getBoundingClientRect();
  const place = (el: HTMLElement) => {
    const r = el.getBoundingClientRect();
    return [r.left - all.left, all.bottom - r.bottom, r.width, r.height] as const;
  };
  gl.autoClear = false;
  const { through } = useUi.getState();
  const { panes } = useBench.getState();
  stage.lookThrough(shot, through);
  stage.pose(clock.frame);
  const view = through === null ? shot.view : (shot.optics[through] ?? null);
  const key = [
    through,
    ...panes.flatMap((p) => [p.angle, ...place(p.el)]),
    shot.id,
    shot.version,
    stage.drawn,
    stage.previews,
    clock.frame,
    ...place(picture),
    ...place(bench),
    gl.domElement.width,
    gl.domElement.height,
  ].join();
  const same = key === stage.pictureKey; // nothing has changed in the picture
  stage.pictureKey = key;
  if (!same) {
    gl.setScissorTest(false);
    gl.setClearColor(0x000000, 0);
    gl.clear();
  }
  gl.setScissorTest(true);
  gl.shadowMap.autoUpdate = false; // both views show the same shadows
  gl.shadowMap.needsUpdate = !same;

  const canvas = [gl.domElement.width, gl.domElement.height] as const;
  const film = films[shot.document.view];
  gl.toneMapping =
    shot.document.view === "neutral"
      ? THREE.NeutralToneMapping
      : film
        ? THREE.CustomToneMapping
        : THREE.NoToneMapping;
  gl.toneMappingExposure = film ?? 1;
  const show = (el: HTMLElement, view: FramingView) => {
    const [x, y, w, h] = place(el);
    if (w <= 1 || h <= 1) return;
    stage.helper.visible = false;
    stage.putAway(false);
    stage.showShadow(true);
    const k = gl.getPixelRatio();
    stage.lieAt(x * k, y * k, w * k, h * k);
    stage.aim(view);
    gl.setViewport(x, y, w, h);
    gl.setScissor(x, y, w, h);
    stage.lookFrom(gl, stage.camera, ...canvas, new THREE.Vector4(x, y, w, h).multiplyScalar(k).floor());
    stage.showSky(true);
    gl.render(stage.scene, stage.camera);
    stage.showSky(false);
  };
  if (!same && panes.length === 0 && view && stage.cameraIndex >= 0) show(picture, view);
  for (const p of same ? [] : panes) {
    const a = shot.document.angles?.find((x) => x.id === p.angle);
    const v = shot.optics[p.angle];
    if (!a || !v) continue;
    stage.standAt(a.position, a.rotation);
    show(p.el, v);
  }
  if (panes.length > 0) stage.pose(clock.frame); // the camera is where it was
  const [x, y, w, h] = place(bench);
  if (w > 1 && h > 1) {
    stage.helper.visible = true;
    stage.putAway(true);
    stage.showShadow(false);
    drawHelpers(
      stage,
      shot,
      chosen,
      shot.shown.some((p) => p.carries),
    );
    eye.aspect = w / h;
    eye.updateProjectionMatrix();
    gl.setViewport(x, y, w, h);
    gl.setScissor(x, y, w, h);
    gl.setClearColor(getComputedStyle(document.documentElement).getPropertyValue("--bench").trim(), 1);
    stage.lookFrom(
      gl,
      eye,
      ...canvas,
      new THREE.Vector4(x, y, w, h).multiplyScalar(gl.getPixelRatio()).floor(),
    );
    gl.clear();
    gl.render(stage.scene, eye);
  }
}

/** Draws the picture at a size of its own and reads it back. */
export function readPicture(
  gl: THREE.WebGLRenderer,
  stage: Stage,
  shot: ShotReply,
  width: number,
  height: number,
): number[] {
  const target = new THREE.WebGLRenderTarget(width, height, {
    samples: 4,
    stencilBuffer: true,
    colorSpace: THREE.SRGBColorSpace,
  });
  stage.pose(clock.frame);
  if (shot.view) stage.aim(shot.view);
  stage.helper.visible = false;
  stage.putAway(false);
  stage.showShadow(false);
  gl.setRenderTarget(target);
  gl.setScissorTest(false);
  gl.setClearColor(0x000000, 0);
  gl.clear();
  stage.lookFrom(gl, stage.camera, width, height, new THREE.Vector4(0, 0, width, height));
  gl.render(stage.scene, stage.camera);
  const flipped = new Uint8Array(width * height * 4);
  gl.readRenderTargetPixels(target, 0, 0, width, height, flipped);
  gl.setRenderTarget(null);
  target.dispose();
  const out: number[] = [];
  for (let y = height - 1; y >= 0; y--) out.push(...flipped.subarray(y * width * 4, (y + 1) * width * 4));
  return out;
}
