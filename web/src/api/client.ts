import type {
  ApartReply,
  Wish,
  CompareReply,
  CurvesReply,
  FindingsReply,
  MetersReply,
  RehearsalReply,
  PasteReply,
  Cylinder,
  Edit,
  ErrorReply,
  FontReply,
  Format,
  HoleRequest,
  Imported,
  Made,
  Measured,
  NameReply,
  Numbers,
  Replaced,
  Revision,
  RunReply,
  Settings,
  ShotChange,
  ShotName,
  ShotReply,
  State,
  SuitingReply,
  Textured,
  Triage,
  WorkersReply,
} from "./types.gen";

/** A refusal of the server: a sentence, and the newer shot where an edit was stale. */
export class Refusal extends Error {
  constructor(
    sentence: string,
    readonly status: number,
    readonly shot?: ShotReply,
  ) {
    super(sentence);
  }
}

async function refusal(r: Response): Promise<Refusal> {
  try {
    const body = (await r.json()) as ErrorReply;
    return new Refusal(sentence(body.error), r.status, body.shot ?? undefined);
  } catch {
    return new Refusal(`The server answered with ${r.status} and no reason.`, r.status);
  }
}

/** Errors are written without a capital and a stop, so that they can stand in one another. */
function sentence(s: string): string {
  const text = s.charAt(0).toUpperCase() + s.slice(1);
  return /[.!?]$/.test(text) ? text : text + ".";
}

/** JSON has no numbers that are not finite: they would arrive as null. */
function finite(field: string, value: unknown): unknown {
  if (typeof value !== "number" || Number.isFinite(value)) return value;
  throw new Refusal(`Nothing was sent: ${field} is no number. Type it once more, or load the page again.`, 0);
}

/** Sends a request. What stands against it is thrown, as a sentence. */
export async function send(path: string, init: RequestInit = {}): Promise<Response> {
  let r: Response;
  try {
    r = await fetch(path, init);
  } catch (e) {
    if (init.signal?.aborted) throw e;
    throw new Refusal("The server does not answer. Is it still running? Nothing that was saved is lost.", 0);
  }
  if (!r.ok) throw await refusal(r);
  return r;
}

async function ask(method: string, path: string, body?: unknown): Promise<Response> {
  if (body === undefined) return send(path, { method });
  return send(path, {
    method,
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body, finite),
  });
}

const json = async <T>(method: string, path: string, body?: unknown) =>
  (await (await ask(method, path, body)).json()) as T;

export const api = {
  zippable: (run: string) => ask("GET", `/api/runs/${run}/frames.zip?some=1&check=1`),
  newShot: (project: string, name: string) => json<Made>("POST", "/api/shots", { project, name }),
  demo: () => json<Made>("POST", "/api/demo"),
  measures: (shot: string, part: string) =>
    json<Measured>("GET", `/api/shots/${shot}/parts/${part}/measures`),
  studio: (name: string) => json<FontReply>("POST", `/api/skies/studio?name=${encodeURIComponent(name)}`),
  state: () => json<State>("GET", "/api/state"),
  renameProject: (id: string, name: string) => json<State>("PUT", `/api/projects/${id}`, { name }),
  removeProject: (id: string) => json<State>("DELETE", `/api/projects/${id}`),

  shot: (id: string) => json<ShotReply>("GET", `/api/shots/${id}`),
  removeShot: (id: string) => json<State>("DELETE", `/api/shots/${id}`),
  duplicateShot: (id: string) => json<ShotName>("POST", `/api/shots/${id}/duplicate`),
  edit: (id: string, version: number, edits: Edit[]) =>
    json<ShotChange>("POST", `/api/shots/${id}/edits`, { version, edits }),
  suiting: (id: string, parts: string[]) => json<SuitingReply>("POST", `/api/shots/${id}/suiting`, { parts }),
  curves: (id: string, part: string) => json<CurvesReply>("GET", `/api/shots/${id}/curves/${part}`),
  undo: (id: string, version: number) => json<ShotChange>("POST", `/api/shots/${id}/undo`, { version }),
  redo: (id: string, version: number) => json<ShotChange>("POST", `/api/shots/${id}/redo`, { version }),
  history: (id: string) => json<Revision[]>("GET", `/api/shots/${id}/history`),
  restore: (id: string, version: number, number: number) =>
    json<ShotChange>("POST", `/api/shots/${id}/history/${number}`, { version }),
  nameVersion: (id: string, number: number, name: string) =>
    json<Revision[]>("PUT", `/api/shots/${id}/history/${number}/name`, { name }),
  compare: (id: string, from: number, to: number) =>
    json<CompareReply>("GET", `/api/shots/${id}/compare?from=${from}&to=${to}`),
  thumbnail: (id: string, number: number, picture: Blob) =>
    fetch(`/api/shots/${id}/history/${number}/picture`, { method: "PUT", body: picture }),
  paste: (id: string, from: string, parts: string[]) =>
    json<PasteReply>("POST", `/api/shots/${id}/paste`, { from, parts }),
  findings: (id: string) => json<FindingsReply>("GET", `/api/shots/${id}/findings`),
  meters: (id: string, part: string, other: string) =>
    json<MetersReply>("GET", `/api/shots/${id}/parts/${part}/meters?other=${encodeURIComponent(other)}`),
  apart: (id: string, wish: Wish) => json<ApartReply>("POST", `/api/shots/${id}/apart`, wish),
  stopApart: (id: string) => ask("DELETE", `/api/shots/${id}/apart`),
  seam: (id: string, version: number, at: string) =>
    `/api/shots/${id}/seam/picture?at=${at}&version=${version}`,
  rehearsal: (id: string) => json<RehearsalReply>("GET", `/api/shots/${id}/rehearsal`),
  rehearse: (id: string) => json<RehearsalReply>("POST", `/api/shots/${id}/rehearsal`),
  stopRehearsal: (id: string) => ask("DELETE", `/api/shots/${id}/rehearsal`),
  rehearsed: (id: string, version: number, n: number) => `/api/shots/${id}/rehearsal/${version}/${n}`,
  bake: async (id: string) => (await ask("GET", `/api/shots/${id}/bake`)).arrayBuffer(),

  triage: (id: string) => json<Triage>("GET", `/api/shots/${id}/triage`),
  numbers: (id: string, parts: string[]) => json<Numbers>("POST", `/api/shots/${id}/numbers`, { parts }),
  hole: (id: string, ask: HoleRequest) => json<Cylinder>("POST", `/api/shots/${id}/hole`, ask),
  names: (id: string, settings: Settings) =>
    json<NameReply>("POST", `/api/shots/${id}/names`, { settings, frame: 0 }),
  test: async (id: string, settings: Settings, frame: number) => {
    const r = await ask("POST", `/api/shots/${id}/test`, { settings, frame });
    return { picture: await r.blob(), seconds: Number(r.headers.get("X-Seconds")) };
  },
  cancelTest: (id: string) => ask("DELETE", `/api/shots/${id}/test`),
  startRun: (
    id: string,
    settings: Settings,
    several: { cameras: string[]; finishes: string[]; formats: Format[] },
  ) => json<RunReply>("POST", `/api/shots/${id}/runs`, { settings, frame: 0, ...several }),
  runs: () => json<RunReply[]>("GET", "/api/runs"),
  run: (id: string) => json<RunReply>("GET", `/api/runs/${id}`),
  setRun: (id: string, state: "paused" | "cancelled" | "waiting") =>
    json<RunReply>("PUT", `/api/runs/${id}/${state}`),
  workers: () => json<WorkersReply>("GET", "/api/workers"),
  wish: (id: string, wish: string) => json<WorkersReply>("PUT", `/api/workers/${id}`, { wish }),
  forgetWorker: (id: string) => json<WorkersReply>("DELETE", `/api/workers/${id}`),
  firstRun: (id: string) => json<RunReply>("PUT", `/api/runs/${id}/first`),
  verifyRun: (id: string) => json<number[]>("GET", `/api/runs/${id}/verify`),
  redoRun: (id: string, from: number, to: number) =>
    json<RunReply>("POST", `/api/runs/${id}/redo/${from}/${to}`),
};

/** Posts files, and values by name. */
async function upload<T>(path: string, files: File[], values: [string, string][] = []): Promise<T> {
  const form = new FormData();
  for (const [name, value] of values) form.append(name, value);
  for (const f of files) form.append("file", f, f.name);
  return (await (await send(path, { method: "POST", body: form })).json()) as T;
}

/** Keeps a font file, for words. */
export const uploadFont = (file: File) => upload<FontReply>("/api/fonts", [file]);

/** Keeps a picture of surroundings. */
export const uploadSky = (file: File) => upload<FontReply>("/api/skies", [file]);

/** Puts a newer file in the place of an import, which is named by its root part. */
export const replaceModel = (shot: string, root: string, files: File[]) =>
  upload<Replaced>(`/api/shots/${shot}/replace?root=${root}`, files);

/** Brings pictures to a shot's materials, first to those that are named. */
export const uploadTextures = (shot: string, files: File[], materials: string[]) =>
  upload<Textured>(
    `/api/shots/${shot}/textures`,
    files,
    materials.map((m) => ["material", m]),
  );

/** Brings files in. Tells the share of the upload; what the server then does comes as events. */
export function bringIn(
  files: File[],
  ticket: string,
  uploaded: (share: number) => void,
  cancel: AbortSignal,
  project = "", // that the shot becomes part of, or empty for a new one
): Promise<Imported> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.set("ticket", ticket);
    form.set("project", project);
    for (const f of files) form.append("file", f, f.name);
    const x = new XMLHttpRequest(); // fetch does not tell how much has gone up
    x.open("POST", "/api/imports");
    x.upload.onprogress = (e) => uploaded(e.total ? e.loaded / e.total : 0);
    x.onload = () => {
      const body = JSON.parse(x.responseText) as Imported & ErrorReply;
      if (x.status === 200) resolve(body);
      else reject(new Refusal(sentence(body.error), x.status));
    };
    x.onerror = () =>
      reject(
        new Refusal(
          "The upload broke off: the server stopped it or does not answer. Nothing was brought in.",
          0,
        ),
      );
    x.onabort = () => reject(new Refusal("The upload was cancelled. Nothing was brought in.", 0));
    cancel.addEventListener("abort", () => x.abort());
    x.send(form);
  });
}
