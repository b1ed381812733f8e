import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { useEdits } from "../api/queries";
import type { CleanEdit, ShotReply } from "../api/types.gen";
import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { ChevronDown } from "lucide-react";
import { Button, itemClass, listClass } from "../fields/controls";
import { Windowed } from "../fields/Windowed";
import { NumberField } from "../fields/NumberField";
import { choose, select, useUi } from "../state/ui";
import { Section } from "./Section";

/** What arrived and is likely not wanted, and what makes a mesh fit to work with. */
export function TriageSection({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const found = useQuery({
    queryKey: ["triage", shot.id, shot.version],
    queryFn: () => api.triage(shot.id),
    placeholderData: (p) => p,
  }).data;
  const [kept, setKept] = useState<Set<string>>(new Set()); // strays that are to stay
  const chosen = useUi((s) => s.chosen);
  const [crease, setCrease] = useState(40 / 360); // turns
  const root = shot.document.sources[0]?.root;
  if (!found || root === undefined) return null;
  const out = found.strays.filter((s) => !kept.has(s.part));
  const scope = chosen.length > 0 ? chosen : [root];
  const clean = (c: Omit<CleanEdit, "parts">, parts = scope) => void edit({ clean: { parts, ...c } });
  const angle = crease * 2 * Math.PI;
  return (
    <>
      <Section title="Strays" note={found.strays.length || undefined}>
        {found.strays.length === 0 ? (
          <p className="text-quiet">Nothing tiny, far away, flat, empty or twice in one place.</p>
        ) : (
          <>
            <Windowed rows={found.strays} height={24} most={176} label="Strays">
              {(s) => (
                <li key={s.part} className="flex h-[24px] items-center gap-2">
                  <input
                    type="checkbox"
                    aria-label={`Leave out ${s.name}`}
                    checked={!kept.has(s.part)}
                    onChange={(e) => {
                      const next = new Set(kept);
                      if (e.target.checked) next.delete(s.part);
                      else next.add(s.part);
                      setKept(next);
                    }}
                    className="accent-verdigris"
                  />
                  <button
                    type="button"
                    className="truncate text-left hover:underline"
                    onClick={() => select(s.part)}
                  >
                    {s.name}
                  </button>
                  <span className="ml-auto truncate text-right text-[11px] text-quiet" title={s.why}>
                    {s.why}
                  </span>
                </li>
              )}
            </Windowed>
            <div className="mt-2">
              <Button
                primary
                disabled={out.length === 0}
                onClick={() =>
                  void edit({ remove: { parts: out.map((s) => s.part) } }, { stage: { part: root } })
                }
              >
                Leave out {out.length}
              </Button>
            </div>
          </>
        )}
      </Section>
      <Section
        title="Meshes"
        note={chosen.length > 0 ? `of ${chosen.length} selected` : "of the whole import"}
      >
        {found.loose.length > 0 && (
          <p className="mb-1.5">
            {found.loose.length === 1 ? `${found.loose[0]!.name} is` : `${found.loose.length} parts are`} in
            loose pieces.{" "}
            <button type="button" className="stitched" onClick={() => choose(found.loose.map((l) => l.part))}>
              Select
            </button>
          </p>
        )}
        {found.inside.length > 0 && (
          <p className="mb-1.5 text-brass">
            {found.inside.length === 1 ? "One part looks" : `${found.inside.length} parts look`} inwards.{" "}
            <button
              type="button"
              className="stitched text-ink"
              onClick={() => clean({ outside: true }, found.inside)}
            >
              Turn {found.inside.length === 1 ? "it" : "them"} outwards
            </button>
          </p>
        )}
        {found.equal > 0 && (
          <p className="mb-1.5">
            {found.equal} {found.equal === 1 ? "part equals" : "parts equal"} another.{" "}
            <button type="button" className="stitched" onClick={() => clean({ share: true }, [root])}>
              Share one mesh
            </button>
          </p>
        )}
        <NumberField
          label="Edges stay hard above"
          value={crease}
          kind="angle"
          unit="°"
          digits={1}
          min={0.001}
          max={0.5}
          onChange={setCrease}
        />
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          <Button onClick={() => clean({ normals: "smooth", crease: angle })}>Smooth</Button>
          <Button onClick={() => clean({ normals: "faceted" })}>Faceted</Button>
          <Button
            onClick={() => clean({ subdivide: true, crease: angle })}
            title="Each triangle becomes four, and what is round gets rounder"
          >
            Subdivide
          </Button>
          <Button
            onClick={() => clean({ weld: weldOf(shot) })}
            title="Joins vertices that nearly meet: a hundred-thousandth of the model apart"
          >
            Weld
          </Button>
          <Button onClick={() => clean({ outside: true })}>Faces outwards</Button>
          <Menu>
            <MenuButton className="inline-flex h-[26px] items-center gap-1 rounded-md border border-line bg-panel px-2.5 font-medium hover:bg-raised">
              Gather by <ChevronDown size={12} />
            </MenuButton>
            <MenuItems anchor="bottom start" className={listClass}>
              {(
                [
                  ["touching", "surfaces that meet"],
                  ["name", "names that begin alike"],
                  ["material", "one material"],
                ] as const
              ).map(([by, note]) => (
                <MenuItem key={by}>
                  <button
                    type="button"
                    className={itemClass + " w-full"}
                    onClick={() => clean({ gather: by })}
                  >
                    {by} <span className="ml-auto pl-4 text-[11px] text-quiet">{note}</span>
                  </button>
                </MenuItem>
              ))}
            </MenuItems>
          </Menu>
          <Button onClick={() => clean({ split: true })} title="Pieces that hang together become parts">
            Split into pieces
          </Button>
        </div>
      </Section>
    </>
  );
}

/** How near vertices are joined: 1e-5 of the model's largest side, in the file's own unit. */
function weldOf(shot: ShotReply): number {
  const b = shot.reports[0]?.bounds;
  return b ? Math.max(...b.max.map((v, i) => v - b.min[i]!)) * 1e-5 : 1e-6;
}
