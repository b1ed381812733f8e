import { Maximize2, Minimize2 } from "lucide-react";
import { useLayoutEffect, useRef, useState, type RefObject } from "react";
import { setPicture } from "../api/edits";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { angleOf } from "../sheets/AnglesSection";
import { useFrame, usePlaying } from "../state/clock";
import { evidenceNow, useEvidence } from "../state/evidence";
import { useRestingFrame } from "../state/resting";
import { fill, usePanes } from "../state/panes";
import { useUi } from "../state/ui";
import { Proof, ProofSwitch } from "./Proof";
import { Heading } from "./Heading";
import { EvidenceLines } from "./EvidenceLines";
import { Labels } from "./Labels";

const css = (c: [number, number, number]) => `rgb(${c.map((v) => Math.round(v * 255)).join(" ")})`;

/** A vignette as CSS draws one: the renderer's curve (Backdrop in core/render/film.go) in eight steps. */
function corners(v: number): string {
  if (v <= 0) return "";
  const stops = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((k) => {
    const r = k / 8;
    return `rgb(0 0 0 / ${v * r * r * (3 - 2 * r)}) ${((1 + 2 * r) / 3) * 100}%`;
  });
  return `radial-gradient(circle farthest-corner, ${stops.join(", ")}), `;
}

/** The picture's place: as large as its format allows, over a checker where it is transparent. */
export function PictureFrame({ shot, inner }: { shot: ShotReply; inner: RefObject<HTMLDivElement | null> }) {
  const outer = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ w: 0, h: 0 });
  const guides = useUi((s) => s.guides);
  const proof = useUi((s) => s.proof);
  const { width, height } = shot.document.format;
  useLayoutEffect(() => {
    const fit = () => {
      const r = outer.current!.getBoundingClientRect();
      const k = Math.min(r.width / width, r.height / height);
      setSize({ w: Math.floor(width * k), h: Math.floor(height * k) });
    };
    const watch = new ResizeObserver(fit);
    watch.observe(outer.current!);
    fit();
    return () => watch.disconnect();
  }, [width, height]);
  const through = useUi((s) => s.through);
  const overlay = useUi((s) => s.overlay);
  const over = shot.document.angles?.find((a) => a.id === overlay);
  const full = usePanes((s) => s.full);
  const frame = useRestingFrame();
  const playing = usePlaying();
  const { edit } = useEdits();
  const camera = shot.document.parts.find((p) => p.id === (through ?? shot.document.camera));
  const { backdrop: b, backdropLow: low, vignette } = shot.document;
  const margin = camera?.camera?.margin ?? 0;
  return (
    <>
      <Heading>
        Picture
        <span className="truncate text-quiet">
          {camera
            ? `· ${camera.name} · ${width} × ${height} · ${camera.camera!.across ? "orthographic" : `${Number(camera.camera!.focal.toFixed(1))} mm`}`
            : "· the shot has no camera"}
        </span>
        {through !== null ? (
          <span className="ml-auto flex shrink-0 gap-2 text-brass">
            looked through, not in use
            <button
              type="button"
              className="underline"
              onClick={() => {
                useUi.setState({ through: null });
                void edit(setPicture({ camera: through }));
              }}
            >
              use it
            </button>
            <button type="button" className="underline" onClick={() => useUi.setState({ through: null })}>
              back
            </button>
          </span>
        ) : (
          <ProofSwitch />
        )}
        <button
          type="button"
          className={`shrink-0 rounded-sm p-0.5 text-quiet hover:text-ink ${through !== null ? "" : "ml-1"}`}
          title={full ? "Back to the steps: F or Escape" : "Let the picture fill the window: F"}
          aria-label={full ? "Back to the steps" : "Let the picture fill the window"}
          onClick={() => fill(!full)}
        >
          {full ? <Minimize2 size={13} /> : <Maximize2 size={13} />}
        </button>
      </Heading>
      <div ref={outer} className="relative min-h-0 min-w-0 flex-1">
        <div
          ref={inner}
          data-testid="picture"
          className={`absolute ${b ? "" : "checker"}`}
          style={{
            width: size.w,
            height: size.h,
            left: `calc(50% - ${size.w / 2}px)`,
            background: b
              ? `${corners(vignette ?? 0)}linear-gradient(${css(b)}, ${css(low ?? b)})`
              : undefined,
          }}
        />
        {over && !playing && (
          <img
            src={angleOf(shot, over, frame, 480)}
            alt={`${over.name}, laid over`}
            className="pointer-events-none absolute z-10 object-contain opacity-50"
            style={{ width: size.w, height: size.h, left: `calc(50% - ${size.w / 2}px)` }}
          />
        )}
        {proof && through === null && <Proof shot={shot} width={size.w} height={size.h} />}
        <svg
          aria-hidden
          className="pointer-events-none absolute z-10"
          style={{ width: size.w, height: size.h, left: `calc(50% - ${size.w / 2}px)` }}
          viewBox={`0 0 ${Math.max(1, size.w)} ${Math.max(1, size.h)}`}
          fill="none"
          stroke="#ffffff"
          strokeOpacity={0.5}
        >
          {guides.margins && margin > 0 && (
            <rect
              x={(size.w * margin) / 100}
              y={(size.h * margin) / 100}
              width={size.w * (1 - margin / 50)}
              height={size.h * (1 - margin / 50)}
              strokeDasharray="2 4"
            />
          )}
          {guides.thirds &&
            [1, 2].map((k) => (
              <path
                key={k}
                strokeOpacity={0.3}
                d={`M${(size.w * k) / 3} 0V${size.h}M0 ${(size.h * k) / 3}H${size.w}`}
              />
            ))}
          {guides.centre && (
            <path
              d={`M${size.w / 2} ${size.h / 2 - 12}v24M${size.w / 2 - 12} ${size.h / 2}h24`}
              strokeOpacity={0.8}
            />
          )}
          {through === null && <Labels shot={shot} width={size.w} height={size.h} />}
          {through === null && <Evidence width={size.w} height={size.h} />}
        </svg>
      </div>
    </>
  );
}

/** Where what was found is seen on the frame of the playhead, and what is measured. */
function Evidence({ width, height }: { width: number; height: number }) {
  useFrame();
  return <EvidenceLines lines={evidenceNow(useEvidence())} width={width} height={height} />;
}
