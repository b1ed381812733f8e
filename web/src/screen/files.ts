/** All files of what is dropped, those in folders too. */
export async function dropped(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null);
  if (!entries.some((e) => e.isDirectory)) return [...data.files];
  const out: File[] = [];
  const walk = async (e: FileSystemEntry): Promise<void> => {
    if (e.isFile) {
      out.push(await new Promise<File>((ok, no) => (e as FileSystemFileEntry).file(ok, no)));
      return;
    }
    const reader = (e as FileSystemDirectoryEntry).createReader();
    for (;;) {
      // it gives a hundred at a time
      const some = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (some.length === 0) return;
      for (const s of some) await walk(s);
    }
  };
  for (const e of entries) await walk(e);
  return out;
}

/** What can be brought in, for a dialog that asks for files. */
export const models =
  ".glb,.gltf,.3mf,.obj,.mtl,.ply,.stl,.svg,.zip,.bin,.png,.jpg,.jpeg,.webp,.tif,.tiff,.bmp";

export const isPicture = (f: File) => /\.(png|jpe?g|webp|tiff?|bmp)$/i.test(f.name);

/** Asks for files, or for a folder with all in it. */
export function choose(accept: string, folder: boolean, then: (files: File[]) => void) {
  const input = document.createElement("input");
  input.type = "file";
  input.multiple = true;
  if (folder) input.webkitdirectory = true;
  else input.accept = accept;
  input.onchange = () => then([...(input.files ?? [])]);
  input.click();
}
