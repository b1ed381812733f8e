import { clock, useFrame } from "../state/clock";
import { useUi } from "../state/ui";
import type { ValueWords } from "../api/types.gen";
import { useMoveEdits } from "./alike";
import { Button, Pick } from "../fields/controls";
import { choosePoints, latticeOf, moved, useCagePoints, type CageNow } from "../views/cage";
import { Num, type Told } from "./words";

const counts = [2, 3, 4, 5, 6, 7, 8].map((n) => ({ value: String(n), name: String(n) }));
const sides = ["width", "height", "depth"];

/** The points of a cage: how many each way, and how far those that are chosen in the bench have gone. */
export function CageWords({ v, now, t }: { v: ValueWords; now: CageNow; t: Told }) {
  const edit = useMoveEdits();
  const recording = useUi((s) => s.recording);
  const frame = useFrame();
  const { move, chosen } = useCagePoints();
  const mine = move === t.move.id ? chosen.filter((k) => k < now.points.length) : [];
  const one = mine.length === 1 ? mine[0]! : null;
  const mirror = t.shot.moves.find((m) => m.move === t.move.id)?.values.mirror as string;
  const pinned = mine.some((k) => t.move.pins?.some((p) => p.value.startsWith(`point ${k} `)));
  const put = (values: Record<string, number>, record: boolean) =>
    void edit({ setMove: { move: t.move.id, values, frame: clock.frame, record } });
  const pin = () =>
    edit(
      ...mine.flatMap((k) =>
        ["x", "y", "z"].map((a) => ({
          setPin: { part: t.part.id, move: t.move.id, value: `point ${k} ${a}`, time: frame },
        })),
      ),
    );
  return (
    <>
      {now.n.map((n, k) => (
        <span key={k}>
          {k > 0 && " × "}
          <Pick
            inline
            label={`Points over its ${sides[k]}`}
            value={String(n)}
            choices={counts}
            onChange={(to) =>
              t.set(
                v.name,
                now.n.map((o, i) => (i === k ? Number(to) : o)),
              )
            }
          />
        </span>
      ))}{" "}
      points
      <span className="my-1 block rounded-md border border-line px-2 py-1 text-[12px] leading-6">
        {mine.length === 0 ? (
          <span className="text-quiet">
            Press points of the cage in the bench, with Shift for several, and drag them.
          </span>
        ) : one !== null ? (
          <>
            Point{" "}
            {latticeOf(now.n, one)
              .map((x) => x + 1)
              .join(" · ")}{" "}
            goes{" "}
            {["x", "y", "z"].map((a, c) => (
              <span key={a}>
                {c > 0 && ", "}
                {a}{" "}
                <Num
                  label={`Point, ${a}`}
                  pin={`point ${one} ${a}`}
                  value={now.points[one]![c]!}
                  kind="length"
                  onChange={(x) => {
                    const to = now.points[one]!.map((o, i) => (i === c ? x : o)) as [number, number, number];
                    put(moved(now, mirror, one, to), recording);
                  }}
                />
              </span>
            ))}
          </>
        ) : (
          <span>{mine.length} points are chosen. </span>
        )}
        <span className="mt-1 flex flex-wrap gap-1.5 pb-1">
          <Button
            onClick={() =>
              choosePoints(
                t.move.id,
                now.points.map((_, k) => k),
              )
            }
          >
            All points
          </Button>
          {mine.length > 0 && (
            <Button title="Holds them where they are on this frame" onClick={() => void pin()}>
              Pin here
            </Button>
          )}
          {mine.length > 0 && !pinned && (
            <Button
              onClick={() =>
                put(Object.assign({}, ...mine.map((k) => moved(now, "none", k, [0, 0, 0]))), false)
              }
            >
              Put back
            </Button>
          )}
        </span>
      </span>
    </>
  );
}
