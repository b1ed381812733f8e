import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Plus } from "lucide-react";
import { newId } from "../api/ids";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { Button, itemClass, listClass, Pick } from "../fields/controls";
import { ask } from "../screen/ask";
import { select, useUi } from "../state/ui";
import { LightPlan } from "./LightPlan";
import { LightSentence, useLightKinds, partChoices } from "./LightSentence";
import { Section } from "./Section";

/** The rig, the plan, and the light that is selected. */
export function RigSection({ shot }: { shot: ShotReply }) {
  const { edit } = useEdits();
  const d = shot.document;
  const selected = useUi((s) => s.selected);
  const kinds = useLightKinds();
  const rigs = [...(d.rigs ?? []), ...(useKinds()?.rigs ?? [])];
  const lights = d.parts.filter((p) => p.light);
  const names = new Set(lights.filter((p) => !p.hidden).map((p) => p.light!.rig ?? ""));
  const rig = names.size === 1 ? [...names][0] : "";
  const belongs = new Set(shot.lights.filter((l) => l.rigged).map((l) => l.part));
  const rigged = lights.filter((p) => belongs.has(p.id));
  const bound = new Set(rigged.map((p) => p.parent));
  const whole = bound.size === 1 ? [...bound][0]! : bound.size === 0 ? "" : "mixed";
  const light = lights.find((p) => p.id === selected) ?? (lights.length === 1 ? lights[0] : undefined);
  return (
    <>
      <Section title="Rig" note={rig || (lights.length > 0 ? "built by hand" : "no lights")}>
        <div className="flex flex-wrap gap-1.5">
          {rigs.map((r) => (
            <button
              key={r.name}
              type="button"
              title={r.note}
              aria-pressed={rig === r.name}
              className={`h-[24px] rounded-md border px-2 ${rig === r.name ? "border-verdigris bg-verdigris/20" : "border-line hover:bg-raised"}`}
              onClick={() => void edit({ useRig: { rig: r.name, bind: whole === "mixed" ? "" : whole } })}
            >
              {r.name}
            </button>
          ))}
          <button
            type="button"
            className="h-[24px] rounded-md border border-dashed border-line px-2 text-quiet hover:text-ink"
            onClick={() =>
              void ask({
                title: "Keep these lights as a rig",
                value: "Rig " + ((d.rigs ?? []).length + 1),
                yes: "Keep",
              }).then((name) => {
                if (name) void edit({ keepRig: { name } });
              })
            }
          >
            Keep this one…
          </button>
        </div>
        {rigged.length > 0 && (
          <Pick
            label="All bound to"
            value={whole}
            choices={[
              ...(whole === "mixed" ? [{ value: "mixed", name: "several" }] : []),
              { value: "", name: "the room", note: "the object turns in the light" },
              ...(d.camera
                ? [{ value: d.camera, name: "the camera in use", note: "the light goes with it" }]
                : []),
              ...partChoices(
                shot,
                (p) => !p.light && p.id !== d.camera && p.kind !== "floor" && p.kind !== "cutter",
                whole,
              ).map((c) => ({ ...c, note: "the light turns with it" })),
            ]}
            onChange={(parent) =>
              parent !== "mixed" &&
              void edit({ putIn: { parts: rigged.map((p) => p.id), parent, before: "", keep: true } })
            }
          />
        )}
        <LightPlan shot={shot} />
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          <Menu>
            <MenuButton className="inline-flex h-[26px] items-center gap-1 rounded-md border border-line px-2 hover:bg-raised">
              <Plus size={12} /> Add a light
            </MenuButton>
            <MenuItems anchor="bottom start" className={listClass}>
              {kinds.map((kind) => (
                <MenuItem key={kind.value}>
                  <button
                    type="button"
                    className={itemClass + " w-full"}
                    onClick={() => {
                      const id = newId();
                      void edit({ addLight: { kind: kind.value as "", id } }).then((ok) => ok && select(id));
                    }}
                  >
                    {kind.name}
                  </button>
                </MenuItem>
              ))}
            </MenuItems>
          </Menu>
          {light && (
            <>
              <Button onClick={() => void edit({ flag: { parts: [light.id], hidden: !light.hidden } })}>
                {light.hidden ? "Switch it on" : "Switch it off"}
              </Button>
              <Button onClick={() => void edit({ remove: { parts: [light.id] } })}>
                Remove {light.name}
              </Button>
            </>
          )}
        </div>
      </Section>
      {light ? (
        <Section title="Light" note={light.hidden ? "off" : undefined}>
          <LightSentence
            key={light.id}
            shot={shot}
            part={light}
            place={shot.lights.find((l) => l.part === light.id)}
          />
        </Section>
      ) : lights.length > 0 ? (
        <Section title="Light">
          <ul aria-label="Lights" className="max-h-[156px] overflow-y-auto">
            {lights.map((p) => (
              <li key={p.id}>
                <button
                  type="button"
                  className="flex h-[26px] w-full items-center gap-2 rounded-sm px-1 text-left hover:bg-raised"
                  onClick={() => select(p.id)}
                >
                  <span className="truncate">{p.name}</span>
                  <span className="ml-auto text-[11px] text-quiet">
                    {p.hidden ? "off" : kinds.find((k) => k.value === (p.light!.kind ?? ""))?.name}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
    </>
  );
}
