import type { RunReply } from "../api/types.gen";
import { useUi } from "../state/ui";

const colours: Record<string, string> = {
  done: "text-fern",
  failed: "text-coral",
  running: "text-verdigris",
};

/** A run in the list of runs; pressing it opens its player or closes it. */
export function RunRow({ run }: { run: RunReply }) {
  const p = run.progress;
  const on = useUi((s) => s.player === run.id);
  return (
    <li>
      <button
        type="button"
        onClick={() => useUi.setState({ player: on ? null : run.id })}
        className={`flex min-h-[28px] w-full items-center gap-2 rounded-sm px-1.5 text-left hover:bg-raised ${on ? "bg-verdigris/20" : ""}`}
      >
        <span className="flex-1 truncate" title={run.folder}>
          {run.folder.split(/[\\/]/).pop()}
        </span>
        <span className="font-mono text-[11px] text-quiet">
          {p.done}/{p.of}
        </span>
        <span className={`text-[11px] ${colours[p.state] ?? "text-quiet"}`}>{p.state}</span>
      </button>
    </li>
  );
}
