import { useProgress } from "../state/progress";
import { answered, client, keys, renew } from "./queries";
import type { Event, RunReply, ShotReply } from "./types.gen";

/** A window that does not keep up is cut off and connects again at once: that is no server that does not answer. */
const patience = 2000; // milliseconds

/** Listens to the server and keeps what is shown up to date. Connects again by itself. */
export function listen(): () => void {
  let source: EventSource;
  let late: number | undefined; // a timer, while nothing comes
  const connect = () => {
    source = new EventSource("/api/events");
    source.onopen = () => {
      void renew(late === undefined ? keys.state : undefined); // what came while nobody listened was missed
      clearTimeout(late);
      late = undefined;
      useProgress.setState({ online: true });
    };
    source.onerror = () => {
      late ??= window.setTimeout(() => useProgress.setState({ online: false }), patience);
      if (source.readyState === EventSource.CLOSED) again = window.setTimeout(connect, patience); // it gives up after an answer that is none
    };
    source.onmessage = (m) => heard(JSON.parse(m.data as string) as Event);
  };
  let again: number | undefined;
  connect();
  return () => {
    clearTimeout(late);
    clearTimeout(again);
    source.close();
  };
}

function heard(e: Event) {
  if (e.projects) void renew(keys.state);
  if (e.shot) {
    const { id, version } = e.shot;
    void answered().then(() => {
      // the answer to a change of our own brings the newest along
      const known = client.getQueryData<ShotReply>(keys.shot(id));
      if ((known?.version ?? 0) < version) void renew(keys.shot(id));
    });
  }
  if (e.import) useProgress.setState({ import: e.import });
  if (e.check) useProgress.setState({ check: e.check });
  if (e.apart) useProgress.setState({ apart: e.apart });
  if (e.rehearsal) void renew(keys.rehearsal(e.rehearsal.id));
  if (e.test) useProgress.setState({ test: e.test });
  if (e.workers) void renew(keys.workers);
  if (e.run) {
    const p = e.run;
    const known = client.getQueryData<RunReply>(keys.run(p.run));
    client.setQueryData<RunReply>(keys.run(p.run), (r) => r && { ...r, progress: p });
    client.setQueryData<RunReply[]>(keys.runs, (list) =>
      list?.map((r) => (r.id === p.run ? { ...r, progress: p } : r)),
    );
    if (known && (known.progress.done !== p.done || known.progress.state !== p.state))
      void renew(keys.run(p.run));
  }
}
