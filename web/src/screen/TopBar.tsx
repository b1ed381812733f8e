import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import {
  Archive,
  ChevronDown,
  Clock3,
  Download,
  Keyboard,
  Moon,
  Redo2,
  Search,
  Sun,
  Trash2,
  Upload,
} from "lucide-react";
import { api } from "../api/client";
import { client, keys, useEdits, useFindings, useServerState, renew } from "../api/queries";
import type { ShotReply } from "../api/types.gen";
import { Button, itemClass, listClass } from "../fields/controls";
import { say } from "../state/notices";
import { goTo, openShot, steps, useUi } from "../state/ui";
import { ask } from "./ask";
import { beginEmpty } from "./begin";
import { askForFiles } from "./BringIn";
import { Logo } from "./Logo";

export function TopBar({ shot }: { shot: ShotReply | undefined }) {
  return (
    <header className="flex h-[44px] shrink-0 items-center gap-3 border-b border-line bg-ground px-3">
      <Logo />
      <Projects shot={shot} />
      <nav className="flex flex-1 items-center justify-center" aria-label="Steps">
        {shot && <Steps shot={shot} />}
      </nav>
      {shot && <History shot={shot} />}
      <More />
    </header>
  );
}

function Projects({ shot }: { shot: ShotReply | undefined }) {
  const state = useServerState().data;
  const id = useUi((s) => s.shot);
  const project = state?.projects.find((p) => p.shots.some((s) => s.id === id));
  const remove = async () => {
    if (!project) return;
    const sure = await ask({
      title: `Remove “${project.name}”?`,
      text: "The project goes with its shots and their history. Rendered frames stay on disk.",
      yes: "Remove the project",
    });
    if (sure === null) return;
    try {
      client.setQueryData(keys.state, await api.removeProject(project.id));
    } catch (e) {
      say((e as Error).message);
    }
  };
  const { edit } = useEdits();
  const duplicate = async () => {
    try {
      const made = await api.duplicateShot(id ?? "");
      await renew(keys.state);
      openShot(made.id);
    } catch (e) {
      say((e as Error).message);
    }
  };
  const begin = async (of: string) => {
    const n = (project?.shots.length ?? 0) + 1;
    const name = await ask(
      of
        ? { title: "Name of the new shot", value: `Shot ${n}`, yes: "Begin" }
        : { title: "Name of the new project", value: "Untitled", yes: "Begin" },
    );
    if (name !== null) await beginEmpty(of, name);
  };
  const renameShot = async () => {
    const name = shot && (await ask({ title: "Name of the shot", value: shot.document.name, yes: "Rename" }));
    if (name) void edit({ rename: { name } });
  };
  const removeShot = async () => {
    if (!shot) return;
    const sure = await ask({
      title: `Remove the shot “${shot.document.name}”?`,
      text: "It goes with its history. Rendered frames stay on disk.",
      yes: "Remove the shot",
    });
    if (sure === null) return;
    try {
      client.setQueryData(keys.state, await api.removeShot(shot.id));
    } catch (e) {
      say((e as Error).message);
    }
  };
  const rename = async () => {
    const name = project && (await ask({ title: "Name of the project", value: project.name, yes: "Rename" }));
    if (!project || !name) return;
    try {
      client.setQueryData(keys.state, await api.renameProject(project.id, name));
      void renew(keys.shot(id ?? ""));
    } catch (e) {
      say((e as Error).message);
    }
  };
  return (
    <Menu>
      <MenuButton
        className="flex max-w-[250px] items-center gap-1.5 rounded-sm px-1 py-1 hover:bg-raised"
        aria-label="Projects and shots"
      >
        <span className="truncate font-semibold">{project?.name ?? "Perigyre"}</span>
        {shot && (
          <>
            <span className="text-quiet">/</span>
            <span className="truncate">{shot.document.name}</span>
          </>
        )}
        <ChevronDown size={13} className="shrink-0 text-quiet" />
      </MenuButton>
      <MenuItems anchor="bottom start" className={listClass + " max-h-[70vh] w-72 overflow-auto"}>
        {state?.projects.map((p) => (
          <div key={p.id}>
            <p className="truncate px-2 pt-1.5 text-[11px] text-quiet">{p.name}</p>
            {p.shots.map((s) => (
              <MenuItem key={s.id}>
                <button type="button" className={itemClass + " w-full"} onClick={() => openShot(s.id)}>
                  <span className={`size-1.5 rounded-full ${s.id === id ? "bg-verdigris" : ""}`} />
                  <span className="truncate">{s.name}</span>
                </button>
              </MenuItem>
            ))}
          </div>
        ))}
        <div className="my-1 border-t border-line" />
        <MenuItem>
          <button type="button" className={itemClass + " w-full"} onClick={() => askForFiles()}>
            <Upload size={13} /> Bring in a model or a saved project…
          </button>
        </MenuItem>
        <MenuItem>
          <button type="button" className={itemClass + " w-full"} onClick={() => void begin("")}>
            <span className="w-[13px]" /> A new project, empty
          </button>
        </MenuItem>
        {project && (
          <>
            <MenuItem>
              <button type="button" className={itemClass + " w-full"} onClick={() => void begin(project.id)}>
                <span className="w-[13px]" /> A new shot of this project, empty
              </button>
            </MenuItem>
            <MenuItem>
              <button type="button" className={itemClass + " w-full"} onClick={() => askForFiles(project.id)}>
                <span className="w-[13px]" /> Bring in a model as a shot of this project…
              </button>
            </MenuItem>
            <MenuItem>
              <button type="button" className={itemClass + " w-full"} onClick={() => void duplicate()}>
                <span className="w-[13px]" /> Duplicate this shot
              </button>
            </MenuItem>
            <MenuItem>
              <button type="button" className={itemClass + " w-full"} onClick={() => void renameShot()}>
                <span className="w-[13px]" /> Rename this shot…
              </button>
            </MenuItem>
            {project.shots.length > 1 && (
              <MenuItem>
                <button type="button" className={itemClass + " w-full"} onClick={() => void removeShot()}>
                  <span className="w-[13px]" /> Remove this shot…
                </button>
              </MenuItem>
            )}
            <MenuItem>
              <a
                className={itemClass + " w-full"}
                href={`/api/projects/${project.id}/project.zip`}
                download
                title="All shots with their models and textures, to be opened elsewhere"
              >
                <Download size={13} /> Save this project as one file
              </a>
            </MenuItem>
            <MenuItem>
              <a
                className={itemClass + " w-full"}
                href="/api/backup"
                download
                title="All projects with their history, models and textures, and the runs without their frames; perigyre restore makes a folder of it"
              >
                <Archive size={13} /> Back up everything here as one file
              </a>
            </MenuItem>
            <MenuItem>
              <button type="button" className={itemClass + " w-full"} onClick={() => void rename()}>
                <span className="w-[13px]" /> Rename this project…
              </button>
            </MenuItem>
            <MenuItem>
              <button type="button" className={itemClass + " w-full"} onClick={() => void remove()}>
                <Trash2 size={13} /> Remove this project…
              </button>
            </MenuItem>
          </>
        )}
      </MenuItems>
    </Menu>
  );
}

function Steps({ shot }: { shot: ShotReply }) {
  const step = useUi((s) => s.step);
  const { list, looking } = useFindings(shot);
  const open = list.filter((f) => f.weight !== "note").length;
  return steps.map((name, i) => {
    const on = name === step;
    return (
      <div key={name} className="flex items-center">
        {i > 0 && (
          <span className="mx-1.5 w-4 shrink max-xl:mx-0.5 max-xl:w-2 border-t-2 border-dashed border-line" />
        )}
        <button
          type="button"
          aria-current={on ? "step" : undefined}
          onClick={() => goTo(name)}
          className={`flex items-center gap-1.5 whitespace-nowrap rounded-sm px-1 py-1 ${on ? "font-semibold text-ink" : "text-quiet hover:text-ink"}`}
        >
          <span
            className={`flex size-[16px] items-center justify-center rounded-full text-[10px] ${
              on ? "bg-verdigris font-bold text-on-verdigris" : "border border-quiet/60"
            }`}
          >
            {i + 1}
          </span>
          {name}
          {name === "Check" && (open > 0 || looking) && (
            <span
              className={`rounded-full px-1.5 text-[10px] font-bold ${looking ? "animate-pulse border border-coral text-coral" : "bg-coral text-ground"}`}
              aria-label={looking ? "Looking for findings" : `${open} findings`}
              title={looking ? "The shot is being looked at" : undefined}
            >
              {looking && open === 0 ? "…" : open}
            </span>
          )}
        </button>
      </div>
    );
  });
}

function History({ shot }: { shot: ShotReply }) {
  const { undo, redo } = useEdits();
  const at = new Date(shot.saved);
  return (
    <div className="flex items-center gap-1.5">
      <button
        type="button"
        className="flex items-center gap-1 rounded-sm px-1 text-[11px] whitespace-nowrap text-quiet hover:text-ink"
        onClick={() => useUi.setState({ dialog: "history" })}
        title="History of this shot"
      >
        <Clock3 size={12} /> saved ·{" "}
        {at.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hourCycle: "h23" })}
      </button>
      <Button onClick={undo} disabled={!shot.canUndo} title="Ctrl Z">
        Undo
      </Button>
      <Button onClick={redo} disabled={!shot.canRedo} title="Shift Ctrl Z" label="Redo">
        <Redo2 size={14} />
      </Button>
    </div>
  );
}

function More() {
  const light = useUi((s) => s.light);
  const icon =
    "flex size-[26px] items-center justify-center rounded-md text-quiet hover:bg-raised hover:text-ink";
  return (
    <div className="flex items-center">
      <button
        type="button"
        className={icon}
        title="Find a command (Ctrl K)"
        aria-label="Find a command"
        onClick={() => useUi.setState({ dialog: "commands" })}
      >
        <Search size={14} />
      </button>
      <button
        type="button"
        className={icon}
        title="Keys (?)"
        aria-label="Keys"
        onClick={() => useUi.setState({ dialog: "keys" })}
      >
        <Keyboard size={15} />
      </button>
      <button
        type="button"
        className={icon}
        title={light ? "Dark theme" : "Light theme"}
        aria-label={light ? "Dark theme" : "Light theme"}
        onClick={() => useUi.setState({ light: !light })}
      >
        {light ? <Moon size={14} /> : <Sun size={14} />}
      </button>
    </div>
  );
}
