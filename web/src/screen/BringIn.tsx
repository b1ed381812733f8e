import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { Box, Upload } from "lucide-react";
import { useEffect, useState } from "react";
import { create } from "zustand";
import { api, bringIn } from "../api/client";
import { newId } from "../api/ids";
import { client, keys, renew } from "../api/queries";
import type { Edit, ShotReply } from "../api/types.gen";
import { Button } from "../fields/controls";
import { say } from "../state/notices";
import { useProgress } from "../state/progress";
import { openShot, useUi } from "../state/ui";
import { bringTextures } from "../sheets/TextureSection";
import { beginEmpty } from "./begin";
import { pasteParts } from "./clipboard";
import { choose, dropped, isPicture, models } from "./files";

interface Import {
  names: string[];
  ticket: string;
  uploaded: number;
  cancel: () => void;
}
const useImport = create<{ now: Import | null; over: boolean }>(() => ({ now: null, over: false }));

/** Brings files in, as a new project or as another shot of one, and opens it. */
export async function bringFiles(files: File[], project = "") {
  if (files.length === 0 || useImport.getState().now) return;
  const stop = new AbortController();
  const ticket = newId();
  // What has not gone up is not sent; what the server is at, it gives up, and says so.
  const end = () => {
    const heard = useProgress.getState().import?.ticket === ticket; // browsers tell late what has gone up
    if (!heard && (useImport.getState().now?.uploaded ?? 0) < 1) stop.abort();
    void fetch(`/api/imports/${ticket}`, { method: "DELETE", keepalive: true });
  };
  addEventListener("pagehide", end);
  useProgress.setState({ import: null });
  useImport.setState({ now: { names: files.map((f) => f.name), ticket, uploaded: 0, cancel: end } });
  try {
    const got = await bringIn(
      files,
      ticket,
      (uploaded) => useImport.setState((s) => ({ now: s.now && { ...s.now, uploaded } })),
      stop.signal,
      project,
    );
    await renew(keys.state);
    openShot(got.shot);
    useUi.setState({ step: "Bring in" });
  } catch (e) {
    say((e as Error).message);
  } finally {
    removeEventListener("pagehide", end);
    useImport.setState({ now: null });
  }
}

export function askForFiles(project = "") {
  choose(models, false, (files) => void bringFiles(files, project));
}

/** What was dropped or pasted: pictures alone go to the open shot's materials, all else is a model. */
function arrive(files: File[]) {
  if (files.length > 0 && files.every(isPicture) && useUi.getState().shot !== null) void bringTextures(files);
  else void bringFiles(files, homeFor(useUi.getState().shot));
}

/** The project that a model joins: that of an open shot which has none yet; empty for a project of its own. */
function homeFor(id: string | null): string {
  const shot = id === null ? undefined : client.getQueryData<ShotReply>(keys.shot(id));
  return shot?.document.sources.length === 0 ? shot.project : "";
}

/** Files can be dropped anywhere, or pasted. */
export function useDrops() {
  useEffect(() => {
    const over = (e: DragEvent) => {
      if (!e.dataTransfer?.types.includes("Files")) return;
      e.preventDefault();
      useImport.setState({ over: true });
    };
    const leave = (e: DragEvent) => {
      if (e.relatedTarget === null) useImport.setState({ over: false });
    };
    const drop = (e: DragEvent) => {
      if (!e.dataTransfer?.files.length) return;
      e.preventDefault();
      useImport.setState({ over: false });
      void dropped(e.dataTransfer).then(arrive);
    };
    const paste = (e: ClipboardEvent) => {
      if (/^(INPUT|TEXTAREA)$/.test((e.target as HTMLElement).tagName)) return;
      if (!e.clipboardData?.files.length) return void pasteParts();
      e.preventDefault();
      arrive([...e.clipboardData.files]);
    };
    addEventListener("dragover", over);
    addEventListener("dragleave", leave);
    addEventListener("drop", drop);
    addEventListener("paste", paste);
    return () => {
      removeEventListener("dragover", over);
      removeEventListener("dragleave", leave);
      removeEventListener("drop", drop);
      removeEventListener("paste", paste);
    };
  }, []);
}

/** What an empty start shows: what this is for, and the one button that begins. */
export function BringInPanel({ first }: { first?: boolean }) {
  const home = homeFor(useUi((s) => s.shot));
  return (
    <div className={`flex flex-col items-center gap-3 text-center ${first ? "w-[420px]" : ""}`}>
      <Box size={34} strokeWidth={1.2} className="text-quiet" />
      {first && <h1 className="text-[17px] font-semibold">Bring in a model</h1>}
      <p className="text-quiet">
        It is stood on a plinth and turns once, at constant speed, in a loop that closes. Drop a file anywhere
        on this page, paste it, or choose it.
      </p>
      <Button primary onClick={() => askForFiles(home)}>
        <Upload size={14} /> Choose a model…
      </Button>
      {home && <p className="text-quiet">It becomes a shot of this project.</p>}
      {first && <BeginWith />}
      <p className="text-[11px] text-quiet">
        GLB, glTF with its files, OBJ with MTL and textures, STL, PLY, 3MF, an SVG mark; or a zip of these.
      </p>
    </div>
  );
}

/** Ways to begin without a file. */
function BeginWith() {
  const begin = async (edit: Edit | null) => {
    const shot = await beginEmpty("", "Untitled");
    if (shot === null || !edit) return;
    try {
      const now = await api.shot(shot);
      await api.edit(shot, now.version, [edit]);
      await renew(keys.shot(shot));
    } catch (e) {
      say((e as Error).message);
    }
  };
  const [fetching, setFetching] = useState(false);
  const demo = async () => {
    setFetching(true);
    try {
      const { shot } = await api.demo();
      await renew(keys.state);
      openShot(shot);
    } catch (e) {
      say((e as Error).message);
    } finally {
      setFetching(false);
    }
  };
  return (
    <p className="flex flex-wrap items-center justify-center gap-1.5 text-quiet">
      or begin with
      <Button onClick={() => void begin(null)}>an empty shot</Button>
      <Button onClick={() => void begin({ addShape: { kind: "sphere", id: newId() } })}>a shape</Button>
      <Button onClick={() => void begin({ addWord: { id: newId() } })}>a word</Button>
      <Button
        title="A lantern of 68 parts, gears, a carton and more, set in motion"
        disabled={fetching}
        onClick={() => void demo()}
      >
        {fetching ? "the demo…" : "the demo"}
      </Button>
    </p>
  );
}

export function ImportProgress() {
  const { now, over } = useImport();
  const step = useProgress((s) => s.import);
  const server = now && step?.ticket === now.ticket ? step : null;
  const share = server ? 0.5 + server.share / 2 : (now?.uploaded ?? 0) / 2;
  const doing = server ? server.doing : (now?.uploaded ?? 0) < 1 ? "Uploading" : "Waiting for the server";
  return (
    <>
      {over && (
        <div className="pointer-events-none fixed inset-3 z-50 flex items-center justify-center rounded-lg border-2 border-dashed border-verdigris bg-ground/70 text-[16px] font-semibold">
          Drop a model with its files, or textures for this one
        </div>
      )}
      <Dialog open={now !== null} onClose={() => {}} className="relative z-40">
        <div className="fixed inset-0 flex items-center justify-center bg-black/50">
          <DialogPanel className="w-[400px] rounded-lg border border-line bg-panel p-4 shadow-2xl">
            <DialogTitle className="truncate font-semibold">Bringing in {now?.names.join(", ")}</DialogTitle>
            <div
              className="mt-3 h-1.5 overflow-hidden rounded-full bg-ground"
              role="progressbar"
              aria-valuenow={Math.round(share * 100)}
            >
              <div className="h-full bg-verdigris" style={{ width: `${share * 100}%` }} />
            </div>
            <div className="mt-2 flex items-center justify-between">
              <span className="text-quiet">{doing}…</span>
              <Button onClick={now?.cancel}>Stop</Button>
            </div>
          </DialogPanel>
        </div>
      </Dialog>
    </>
  );
}
