import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Plus } from "lucide-react";
import { newId } from "../api/ids";
import { useKinds } from "../api/kinds";
import { useEdits } from "../api/queries";
import type { Edit } from "../api/types.gen";
import { itemClass, listClass } from "../fields/controls";
import { select } from "../state/ui";

/** Adds a shape or a word, sized to what is there. */
export function AddPart() {
  const { edit } = useEdits();
  const shapes = useKinds()?.shapes ?? [];
  const add = (of: (id: string) => Edit) => {
    const id = newId();
    void edit(of(id)).then((ok) => ok && select(id));
  };
  return (
    <Menu>
      <MenuButton className="flex items-center gap-1 rounded-sm border border-line px-1.5 py-0.5 hover:bg-raised">
        <Plus size={11} /> Add a shape or word
      </MenuButton>
      <MenuItems anchor="bottom end" className={listClass}>
        <MenuItem>
          <button
            type="button"
            className={itemClass + " w-full"}
            onClick={() => add((id) => ({ addWord: { id } }))}
          >
            word
          </button>
        </MenuItem>
        {shapes.map(({ kind }) => (
          <MenuItem key={kind}>
            <button
              type="button"
              className={itemClass + " w-full"}
              onClick={() => add((id) => ({ addShape: { kind, id } }))}
            >
              {kind}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
