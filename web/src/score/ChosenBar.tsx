import type { ReactNode } from "react";
import { useEdits } from "../api/queries";
import type { Shot, ShotReply } from "../api/types.gen";
import { NumberField } from "../fields/NumberField";
import { clearChosen, dragged, follows, reachOf, still, useChosen } from "../state/chosen";
import { clock } from "../state/clock";
import { useUi } from "../state/ui";
import { follow, snap } from "./drag";

/** What can be done with the pins and bars that are chosen; the line below the score otherwise. */
export function ChosenBar({ shot, children }: { shot: ShotReply; children: ReactNode }) {
  const { edit } = useEdits();
  const c = useChosen();
  const part = useUi((s) => s.selected);
  const reach = reachOf(c, shot.document);
  if (!reach) return <>{children}</>;
  const [from, to] = reach;
  const n = c.pins.length;
  const words = [
    n && `${n} ${n === 1 ? "pin" : "pins"}`,
    c.bars.length && `${c.bars.length} ${c.bars.length === 1 ? "bar" : "bars"}`,
  ]
    .filter(Boolean)
    .join(", ");
  const move = (change: { by?: number; scale?: number; about?: number; mirror?: boolean }) => {
    useChosen.setState({ by: change.by ?? 0, scale: change.scale ?? 1, about: change.about ?? 0 });
    void edit({
      movePins: { pins: c.pins, bars: c.bars, by: 0, scale: 1, about: 0, ripple: c.ripple, ...change },
    }).then((ok) => (ok ? follows(shot.document) : useChosen.setState(still)));
  };
  const button = "rounded-sm px-1 hover:bg-raised hover:text-ink";
  const own = c.pins.every((p) => !p.move);
  return (
    <div
      className="pointer-events-auto flex w-full items-center gap-2 overflow-hidden whitespace-nowrap"
      data-testid="chosen"
    >
      <span className="text-heather">{words}</span>
      <span>
        from{" "}
        <NumberField
          inline
          label="Time of what is chosen"
          value={from}
          kind="time"
          unit="f"
          digits={2}
          onChange={(v) => move({ by: v - from })}
        />
      </span>
      {to > from && (
        <span>
          over{" "}
          <NumberField
            inline
            label="Length of what is chosen"
            value={to - from}
            kind="time"
            unit="f"
            digits={2}
            min={0.01}
            onChange={(v) => move({ scale: v / (to - from), about: from })}
          />
        </span>
      )}
      <button
        type="button"
        className={`${button} ${c.ripple ? "bg-heather/25 text-ink" : ""}`}
        aria-pressed={c.ripple}
        title="Later pins of the same tracks go along"
        onClick={() => useChosen.setState({ ripple: !c.ripple })}
      >
        ripple
      </button>
      {to > from && (
        <button
          type="button"
          className={button}
          title="In time, about their middle"
          onClick={() => move({ scale: -1, about: (from + to) / 2 })}
        >
          reverse
        </button>
      )}
      {n > 0 && (
        <>
          <button
            type="button"
            className={button}
            title="Values about those of rest"
            onClick={() => move({ mirror: true })}
          >
            mirror
          </button>
          <button
            type="button"
            className={button}
            title={
              own && part && c.pins.some((p) => p.part !== part)
                ? "To the playhead, on the part that is selected"
                : "To the playhead"
            }
            onClick={() => {
              const one = own && new Set(c.pins.map((p) => p.part)).size === 1;
              const onto = one && part && part !== c.pins[0]!.part ? part : undefined;
              void edit({
                movePins: {
                  pins: c.pins,
                  by: clock.frame - Math.min(...c.pins.map((p) => p.time)),
                  scale: 1,
                  about: 0,
                  copy: true,
                  onto,
                },
              });
            }}
          >
            copy here
          </button>
          <button
            type="button"
            className={button}
            onClick={() => void edit({ removePins: { pins: c.pins } }).then(clearChosen)}
          >
            remove
          </button>
        </>
      )}
      <button type="button" className={button + " ml-auto"} onClick={clearChosen}>
        let go
      </button>
    </div>
  );
}

/** The reach of what is chosen, on the ruler: its ends are dragged to scale it. */
export function ChosenReach(p: { shot: Shot; x: (f: number) => number; per: number; edges: number[] }) {
  const { edit } = useEdits();
  const c = useChosen();
  const reach = reachOf(c, p.shot);
  if (!reach || reach[1] - reach[0] < 1e-6) return null;
  const [from, to] = reach;
  const grab = (end: number, about: number) => (e: React.PointerEvent) => {
    e.stopPropagation();
    follow(
      e,
      (dx, _, ev) => {
        const v = snap(end + dx / p.per, p.edges, p.per, ev.altKey);
        const scale = (v - about) / (end - about);
        if (Math.abs(scale) > 1e-3) useChosen.setState({ scale, about, by: 0 });
      },
      (moved) => {
        const { pins, bars, scale, about: middle } = useChosen.getState();
        if (!moved || scale === 1) return;
        void edit({ movePins: { pins, bars, by: 0, scale, about: middle } }).then((ok) =>
          ok ? follows(p.shot) : useChosen.setState(still),
        );
      },
    );
  };
  const [a, b] = [p.x(dragged(c, from)), p.x(dragged(c, to))];
  return (
    <svg className="pointer-events-none absolute inset-0 overflow-visible" width={1} height={26}>
      <line x1={a} x2={b} y1={23} y2={23} stroke="var(--heather)" strokeWidth={2} />
      {[
        { at: a, end: from, about: to },
        { at: b, end: to, about: from },
      ].map((g, i) => (
        <circle
          key={i}
          cx={g.at}
          cy={22}
          r={4.5}
          fill="var(--heather)"
          className="pointer-events-auto cursor-ew-resize touch-none"
          data-testid={i ? "reach-to" : "reach-from"}
          onPointerDown={grab(g.end, g.about)}
        >
          <title>Drag to scale what is chosen</title>
        </circle>
      ))}
    </svg>
  );
}
