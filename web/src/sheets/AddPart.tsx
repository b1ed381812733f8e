import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Plus } from "lucide-react";
import { newId } from "../api/ids";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Edit, Kinds, ShotReply } from "../api/types.gen";
import { itemClass, listClass } from "../fields/controls";
import { askForFiles } from "../screen/BringIn";
import { useUi } from "../state/ui";
import { useBench } from "../views/benchStore";

/** Where the bench looks from. */
export function benchView() {
  const { eye } = useBench.getState();
  return eye
    ? {
        position: eye.position.toArray(),
        rotation: eye.quaternion.toArray() as [number, number, number, number],
      }
    : undefined;
}

/** What can be added to a shot at any time, whatever is selected; what is added is selected. */
export function additions(kinds: Kinds, chosen: string[]): { name: string; of: string; edit: () => Edit }[] {
  return [
    ...kinds.shapes.map(({ kind }) => ({
      name: kind,
      of: "Shapes",
      edit: () => ({ addShape: { kind, id: newId() } }) as Edit,
    })),
    { name: "word", of: "Marks", edit: () => ({ addWord: { id: newId() } }) },
    {
      name: "group",
      of: "Others",
      edit: () => ({
        add: {
          part: {
            id: newId(),
            name: "Group",
            parent: "",
            kind: "group",
            rest: { position: [0, 0, 0], rotation: [0, 0, 0, 1], size: [1, 1, 1] },
            pivot: [0, 0, 0],
            hidden: false,
            moves: [],
          },
        },
      }),
    },
    { name: "ground of blocks", of: "Others", edit: () => ({ addGround: { id: newId() } }) },
    ...(chosen.length === 1
      ? [
          {
            name: "copies of what is selected",
            of: "Others",
            edit: () => ({ addCopies: { of: chosen[0]!, id: newId() } }) as Edit,
          },
        ]
      : []),
    {
      name: chosen.length === 1 ? "cutter of what is selected" : "cutter",
      of: "Others",
      edit: () => ({ addCutter: { of: chosen.length === 1 ? chosen[0]! : "", id: newId() } }) as Edit,
    },
    {
      name: "camera, from where the bench looks",
      of: "Cameras and lights",
      edit: () => ({ addCamera: { id: newId(), from: benchView() } }),
    },
    ...kinds.lights.map(({ kind, name }) => ({
      name: `light, a ${name}`,
      of: "Cameras and lights",
      edit: () => ({ addLight: { kind: kind as "", id: newId() } }),
    })),
  ];
}

/** The button of the tree that adds something. */
export function AddPart({ shot }: { shot: ShotReply }) {
  const { make } = useEdits();
  const kinds = useKinds();
  const chosen = useUi((s) => s.chosen);
  const list = kinds ? additions(kinds, chosen) : [];
  let of = "";
  return (
    <Menu>
      <MenuButton
        aria-label="Add a part"
        title="Add a shape, a word, a drawing, a group, a cutter, a camera or a light"
        className="flex items-center gap-0.5 rounded-sm border border-line px-1.5 py-0.5 text-[11px] hover:bg-raised"
      >
        <Plus size={11} /> Add
      </MenuButton>
      <MenuItems anchor="bottom start" className={listClass + " max-h-[70vh] overflow-auto"}>
        {list.map((a) => {
          const head = a.of !== of && <p className="px-2 pt-1 text-[11px] text-quiet">{a.of}</p>;
          of = a.of;
          return (
            <div key={a.name}>
              {head}
              <MenuItem>
                <button type="button" className={itemClass + " w-full"} onClick={() => void make(a.edit())}>
                  {a.name}
                </button>
              </MenuItem>
            </div>
          );
        })}
        <MenuItem>
          <button type="button" className={itemClass + " w-full"} onClick={() => askForFiles(shot.project)}>
            a drawing or a model, as a shot of this project…
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}
