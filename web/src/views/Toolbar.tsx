import type { ShotReply } from "../api/types.gen";
import { useUi } from "../state/ui";

/** The bench's own words: which handles, along which axes, what they snap to. */
export function Toolbar({ shot }: { shot: ShotReply }) {
  const { step, tool, even, axes, snap, picking, chosen, recording } = useUi();
  if (step !== "Arrange" && !recording && picking === null) return null;
  if (picking !== null)
    return (
      <p
        className="absolute top-[34px] right-0 left-0 z-20 mx-auto w-fit max-w-full truncate rounded-sm bg-verdigris px-2 text-[11px] text-on-verdigris"
        role="status"
      >
        {
          {
            pivot: "Click where the pivot goes",
            hole: "Click inside a round hole",
            from: "Click a face of the part",
            to: "Click the face to meet",
            point: "Click a point",
            diameter: "Click inside a round hole or on a pin",
            thickness: "Click a wall",
            aim: "Press what it is to look at",
            between: "Press two points, one after the other",
            highlight: "Press where the highlight is to be",
            shadow: "Press where the shadow is to fall",
            surface: "Click the surface to scatter on",
            marquee: "Drag round what to select",
            part: "Click the part that is meant",
            axis: "Click a face that looks along the axis",
            place: "Click the place",
          }[picking]
        }{" "}
        <button type="button" className="underline" onClick={() => useUi.setState({ picking: null })}>
          leave it
        </button>
      </p>
    );
  const cell = (on: boolean) => `px-1.5 ${on ? "bg-verdigris/25 text-ink" : "text-quiet hover:text-ink"}`;
  const next = <T extends string>(list: readonly T[], now: T) => list[(list.indexOf(now) + 1) % list.length]!;
  return (
    <div className="absolute top-[38px] right-1 z-10 flex items-center overflow-hidden rounded-sm border border-line bg-panel text-[11px]">
      <button
        type="button"
        className={cell(false)}
        title="Drag a frame round what to select; Alt and drag does so too"
        onClick={() => useUi.setState({ picking: "marquee" })}
      >
        marquee
      </button>
      {(chosen.length > 0 ? (["drag", "turn", "resize"] as const) : []).map((t) => (
        <button
          key={t}
          type="button"
          aria-pressed={tool === t}
          className={cell(tool === t)}
          onClick={() => useUi.setState({ tool: t })}
          title={{ drag: "D", turn: "T", resize: "Z" }[t]}
        >
          {t}
        </button>
      ))}
      {chosen.length > 0 && shot && (
        <>
          {tool === "resize" && (
            <button
              type="button"
              className={cell(even) + " border-l border-line"}
              aria-pressed={even}
              title="Whether width, height and depth change together or each by its own handle"
              onClick={() => useUi.setState({ even: !even })}
            >
              even
            </button>
          )}
          <button
            type="button"
            className={cell(false) + " border-l border-line"}
            title="The axes that the handles follow"
            onClick={() => useUi.setState({ axes: next(["room", "parent", "own"] as const, axes) })}
          >
            {axes}
          </button>
          <button
            type="button"
            className={cell(snap !== "free") + " border-l border-line"}
            title="What dragging snaps to"
            onClick={() =>
              useUi.setState({
                snap: next(["free", "steps", "vertices", "edges", "faces", "floor"] as const, snap),
              })
            }
          >
            {snap}
          </button>
        </>
      )}
    </div>
  );
}
