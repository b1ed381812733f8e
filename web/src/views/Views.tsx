import { Canvas, useFrame as useRender, useThree } from "@react-three/fiber";
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type RefObject } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { api } from "../api/client";
import { client, keys, useBake } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { lengths } from "../fields/lengths";
import { clock, useFrame, usePlaying } from "../state/clock";
import { partTouched } from "../state/chosen";
import { usePane, usePanes } from "../state/panes";
import { select, toggle, useUi } from "../state/ui";
import { useEvidence } from "../state/evidence";
import { Edge } from "../screen/Edge";
import { centred, drawn } from "../state/signals";
import { BenchHandles } from "./BenchHandles";
import { Compare } from "./Compare";
import { Marquee } from "./Marquee";
import { MoveHandles } from "./MoveHandles";
import { useBench } from "./benchStore";
import { deeper, picked, pickedFrom, rayThrough, type Picked } from "./pick";
import { Heading } from "./Heading";
import { PictureFrame } from "./PictureFrame";
import { draw, readPicture } from "./draw";
import { plain } from "./plain";
import { benchLayer, Stage } from "./stage";
import { Measures } from "./Measures";

/** The picture and the bench: two views of one scene, drawn by one renderer. */
export function Views({ shot }: { shot: ShotReply }) {
  const holder = useRef<HTMLDivElement>(null);
  const picture = useRef<HTMLDivElement>(null);
  const bench = useRef<HTMLDivElement>(null);
  const swapped = useUi((s) => s.swapped);
  const step = useUi((s) => s.step);
  const recording = useUi((s) => s.recording);
  const comparing = useUi((s) => s.comparing);
  const full = usePanes((s) => s.full);
  const beside = usePane("bench"); // the smaller of the two
  const small = swapped && !full; // the picture is it
  return (
    <div ref={holder} className="relative flex min-w-0 flex-1 gap-3.5 overflow-hidden bg-surround p-3.5 pt-0">
      <div
        className={`flex min-w-0 flex-col ${small ? "order-3 shrink-0" : "flex-1"} ${small && beside === 0 ? "hidden" : ""}`}
        style={small ? { width: beside } : undefined}
      >
        {/* Not the column itself: one with an order of its own that is positioned is painted over the canvas. */}
        <div className="relative flex min-h-0 flex-1 flex-col">
          <div className={`flex min-h-0 flex-1 flex-col ${comparing ? "invisible" : ""}`}>
            <PictureFrame shot={shot} inner={picture} />
          </div>
          {comparing && <Compare shot={shot} />}
        </div>
        {small && <Measures shot={shot} />}
      </div>
      <span className={`-mx-[7px] flex shrink-0 ${swapped ? "order-2" : ""}`}>
        <Edge pane="bench" lies="right" />
      </span>
      <div
        className={`relative flex flex-col ${full || (!swapped && beside === 0) ? "hidden" : swapped ? "order-1 min-w-0 flex-1" : "shrink-0"}`}
        style={swapped ? undefined : { width: beside }}
      >
        <Heading>Bench {step !== "Arrange" && <Wobble shot={shot} />}</Heading>
        <div
          ref={bench}
          data-testid="bench"
          className={`relative touch-none flex-1 ${swapped ? "min-h-0" : "min-h-[160px]"}`}
          style={swapped ? undefined : { maxHeight: beside * 1.21 }}
        />
        <BenchHandles shot={shot} over={bench} />
        <MoveHandles shot={shot} over={bench} />
        <Marquee shot={shot} over={bench} />
        {!swapped && <Measures shot={shot} />}
      </div>
      {recording && step !== "Arrange" && <Recording />}
      <div className="pointer-events-none absolute inset-0">
        <Canvas
          style={{ pointerEvents: "none" }} // it lies over the views, whose own elements take the mouse
          frameloop="demand"
          dpr={plain ? 1 : [1, 2]}
          shadows={plain ? false : { type: THREE.PCFShadowMap }}
          gl={{
            antialias: !plain,
            alpha: true,
            stencil: true, // caps.ts counts in it
            powerPreference: "high-performance",
            preserveDrawingBuffer: true, // the picture stays while only the bench's eye moves
          }}
          flat
        >
          <Drawing shot={shot} holder={holder} picture={picture} bench={bench} />
        </Canvas>
      </div>
    </div>
  );
}

/** The sign that what is changed becomes a pin. */
function Recording() {
  const frame = useFrame();
  return (
    <div className="pointer-events-none absolute inset-0 z-20 border-[3px] border-coral" role="status">
      <p className="pointer-events-auto absolute bottom-0 left-1/2 -translate-x-1/2 rounded-t-md bg-coral px-3 py-1 text-[12px] font-semibold text-ground">
        Recording: what you change is pinned on frame {frame}{" "}
        <button
          type="button"
          className="ml-1 font-normal underline"
          onClick={() => useUi.setState({ recording: false })}
        >
          end it
        </button>
      </p>
    </div>
  );
}

function Wobble({ shot }: { shot: ShotReply }) {
  if (shot.wobble === null) return null;
  return (
    <span
      className={shot.wobble > 1e-4 ? "text-coral" : "text-quiet"}
      title="How far the middle of what turns is from the axis it turns about"
    >
      · axis within {lengths([Math.max(1e-5, shot.wobble)], "", 2)} of centre
    </span>
  );
}

declare global {
  interface Window {
    perigyre?: {
      ready: () => boolean;
      seek: (frame: number) => void;
      play: (direction: -1 | 0 | 1) => void;
      frame: () => number;
      /** The version of the shot that has been drawn with its own motion. */
      drawn: () => number;
      /** Where a point of the room lies on the page, in the bench. */
      onBench: (x: number, y: number, z: number) => number[];
      /** The picture's pixels on the present frame: r, g, b, a from the top, without the set's shadow. */
      pixels: (width: number, height: number) => number[];
    };
  }
}

/** Where a ray meets the floor: the shot's, or the room's. */
function onFloor(ray: THREE.Raycaster, shot: ShotReply): Picked | null {
  const floor = shot.document.parts.find((p) => p.kind === "floor");
  const y = floor?.rest.position[1] ?? 0;
  const point = ray.ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 1, 0), -y), new THREE.Vector3());
  if (!point) return null;
  const up = new THREE.Vector3(0, 1, 0);
  return {
    part: floor?.id ?? "",
    mesh: 0,
    triangle: 0,
    point,
    normal: up,
    smooth: up,
    vertex: point,
    edge: point,
    face: point,
    nearest: point,
  };
}

interface Places {
  shot: ShotReply;
  holder: RefObject<HTMLDivElement | null>;
  picture: RefObject<HTMLDivElement | null>;
  bench: RefObject<HTMLDivElement | null>;
}

/** Pictures a second below which playing is drawn coarser. */
const tooSlow = 9;

function Drawing({ shot, holder, picture, bench }: Places) {
  const gl = useThree((s) => s.gl);
  const invalidate = useThree((s) => s.invalidate);
  const setDpr = useThree((s) => s.setDpr);
  const bake = useBake(shot);
  const selected = useUi((s) => s.selected);
  const chosen = useUi((s) => s.chosen);
  const swapped = useUi((s) => s.swapped);
  const through = useUi((s) => s.through);
  const light = useUi((s) => s.light);
  const playing = usePlaying();
  const stage = useMemo(() => new Stage(gl, invalidate), [gl, invalidate, shot.id]); // eslint-disable-line react-hooks/exhaustive-deps
  const eye = useMemo(() => {
    const c = new THREE.PerspectiveCamera(38, 1, 0.001, 1000);
    c.layers.enable(benchLayer);
    return c;
  }, []);
  const controls = useRef<OrbitControls>(null);
  const [framed, setFramed] = useState<string | null>(null); // the shot that the bench has been aimed at
  const aimedFor = useRef(-1); // what had been drawn when that was last looked at
  const drawnVersion = useRef(0);
  const framedSize = useRef(0); // of what was there then

  useEffect(() => () => stage.dispose(), [stage]);
  useEffect(() => {
    if (bake) stage.update(shot, bake);
  }, [stage, shot, bake]);
  useEffect(() => clock.subscribe(() => invalidate()), [invalidate]);
  useEffect(() => {
    // A machine that cannot keep up while it plays draws coarser meanwhile, and as finely as before once it rests.
    if (playing === 0) return;
    const was = gl.getPixelRatio();
    let coarse = false;
    const look = setInterval(() => {
      if (coarse || clock.reached === 0 || clock.reached >= tooSlow) return;
      coarse = true;
      setDpr(was / 2.5);
      stage.coarse(true);
    }, 250);
    return () => {
      clearInterval(look);
      if (!coarse) return;
      setDpr(was);
      stage.coarse(false);
      invalidate();
    };
  }, [playing, gl, setDpr, stage, invalidate]);
  useEffect(() => useEvidence.subscribe(() => invalidate()), [invalidate]);
  useEffect(invalidate, [invalidate, chosen, swapped, light, playing, shot, through]);

  useEffect(() => {
    const c = new OrbitControls(eye, bench.current!);
    c.enableDamping = false;
    c.screenSpacePanning = true;
    c.addEventListener("change", () => invalidate());
    controls.current = c;
    const watch = new ResizeObserver(() => invalidate());
    watch.observe(bench.current!);
    watch.observe(picture.current!);
    watch.observe(holder.current!);
    return () => {
      c.dispose();
      watch.disconnect();
    };
  }, [eye, bench, picture, holder, invalidate]);

  /** Aims the bench at a box from a little above. */
  const aimAt = (box: THREE.Box3) => {
    const centre = box.getCenter(new THREE.Vector3());
    const radius = Math.max(1e-4, box.getSize(new THREE.Vector3()).length() / 2);
    eye.near = radius / 100;
    eye.far = radius * 200;
    eye.position.copy(centre).add(new THREE.Vector3(0.55, 0.5, 1).normalize().multiplyScalar(radius * 3.4));
    controls.current!.target.copy(centre);
    controls.current!.update();
    invalidate();
  };

  useEffect(() => {
    const centre = () => {
      const inside = new Set([selected ?? ""]);
      for (const p of shot.document.parts) if (inside.has(p.parent)) inside.add(p.id);
      const box = stage.bounds(selected === null ? undefined : (id) => inside.has(id));
      aimAt(box.isEmpty() ? stage.bounds() : box);
    };
    return centred.hear(centre);
  });

  useEffect(() => {
    // A click in the bench or the picture selects, the whole group first and a level deeper each time; or it picks.
    const listen = (el: HTMLElement, camera: THREE.Camera, helpers: boolean) => {
      let down = [0, 0];
      const press = (e: PointerEvent) => (down = [e.clientX, e.clientY]);
      const release = (e: PointerEvent) => {
        if (Math.hypot(e.clientX - down[0]!, e.clientY - down[1]!) > 4 || e.button !== 0) return;
        const { picking, selected } = useUi.getState();
        if (picking === "marquee") return;
        const r = el.getBoundingClientRect();
        const ray = rayThrough(
          ((e.clientX - r.left) / r.width) * 2 - 1,
          1 - ((e.clientY - r.top) / r.height) * 2,
          camera,
        );
        const hit = ray.intersectObjects(stage.objects(), true)[0];
        if (picking !== null) {
          const got = hit ? pickedFrom(hit, camera, r) : picking === "shadow" ? onFloor(ray, shot) : null;
          if (got) picked.tell(got);
          return;
        }
        // What only the bench draws, a camera or a light, is pressed where nothing of the shot is in front of it.
        const mark = helpers ? ray.intersectObjects(stage.handles(), false)[0] : undefined;
        const id = (mark && (!hit || mark.distance < hit.distance) ? mark : hit)?.object.userData.part as
          string | undefined;
        partTouched();
        const part = id && (id === mark?.object.userData.part ? id : deeper(shot, id, selected));
        if (e.ctrlKey || e.metaKey || e.shiftKey) {
          if (part) toggle(part);
        } else select(part || null);
      };
      el.addEventListener("pointerdown", press);
      el.addEventListener("pointerup", release);
      return () => {
        el.removeEventListener("pointerdown", press);
        el.removeEventListener("pointerup", release);
      };
    };
    const ends = [listen(bench.current!, eye, true), listen(picture.current!, stage.camera, false)];
    return () => ends.forEach((end) => end());
  }, [bench, picture, eye, stage, shot]);

  useEffect(() => {
    useBench.setState({
      stage,
      eye,
      invalidate,
      hold: (on) => {
        if (controls.current) controls.current.enabled = !on;
      },
    });
  }, [stage, eye, invalidate]);

  useLayoutEffect(() => {
    window.perigyre = {
      ready: () => stage.ready && framed === shot.id && gl.domElement.width > 0,
      seek: (f) => clock.seek(f),
      play: (d) => clock.play(d),
      frame: () => clock.frame,
      drawn: () => drawnVersion.current,
      onBench: (x, y, z) => {
        const r = bench.current!.getBoundingClientRect();
        const v = new THREE.Vector3(x, y, z).project(eye);
        return [r.left + ((v.x + 1) / 2) * r.width, r.top + ((1 - v.y) / 2) * r.height];
      },
      pixels: (w, h) => readPicture(gl, stage, shot, w, h),
    };
  });

  useEffect(() => {
    // A small picture of each revision for the history, once nothing has changed for a moment.
    if (shot.pictured || !bake) return;
    const t = setInterval(() => {
      if (!stage.ready || !shot.view || drawnVersion.current !== shot.version) return; // it is still being drawn
      clearInterval(t);
      const { width, height } = shot.document.format;
      const k = 112 / Math.max(width, height);
      const [w, h] = [Math.max(1, Math.round(width * k)), Math.max(1, Math.round(height * k))];
      const canvas = document.createElement("canvas");
      canvas.width = w;
      canvas.height = h;
      // Taken from what is shown: to draw it once more would compile every material for another target.
      const [from, all] = [picture.current!, holder.current!].map((el) => el.getBoundingClientRect());
      const ratio = gl.domElement.width / all!.width;
      canvas
        .getContext("2d")!
        .drawImage(
          gl.domElement,
          (from!.left - all!.left) * ratio,
          (from!.top - all!.top) * ratio,
          from!.width * ratio,
          from!.height * ratio,
          0,
          0,
          w,
          h,
        );
      canvas.toBlob((b) => b && void api.thumbnail(shot.id, shot.revision, b).catch(() => null)); // none is no harm
    }, 900);
    return () => clearInterval(t);
  }, [shot, bake, stage, gl, picture, holder]);

  useRender(() => {
    if (stage.ready && (framed !== shot.id || aimedFor.current !== stage.drawn)) {
      aimedFor.current = stage.drawn;
      stage.pose(clock.frame);
      const box = stage.bounds();
      const size = box.isEmpty() ? 0 : box.getSize(new THREE.Vector3()).length();
      const ratio = size / framedSize.current;
      if (size > 0 && (framed !== shot.id || ratio > 3 || ratio < 1 / 3)) {
        aimAt(box); // a model read in another unit would be out of sight
        framedSize.current = size;
      }
      if (framed !== shot.id) setFramed(shot.id);
    }
    draw(gl, stage, eye, shot, holder.current!, picture.current!, bench.current!, chosen);
    if (client.getQueryData(keys.bake(shot.id, shot.version)) === bake) drawnVersion.current = shot.version;
    drawn.tell(); // what lies over the bench follows
  }, 1);
  return null;
}
