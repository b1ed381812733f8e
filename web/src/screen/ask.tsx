import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useState } from "react";
import { create } from "zustand";
import { Button } from "../fields/controls";

interface Question {
  title: string;
  text?: string;
  value?: string; // asks for a line of text, beginning with this
  yes: string; // what the button does
  answer: (v: string | null) => void;
}
const useQuestion = create<{ now: Question | null }>(() => ({ now: null }));

/** Asks before something is done. Gives null where it is not wanted, else the text (or ""). */
export function ask(q: Omit<Question, "answer">): Promise<string | null> {
  return new Promise((resolve) =>
    useQuestion.setState({
      now: {
        ...q,
        answer: (v) => {
          useQuestion.setState({ now: null });
          resolve(v);
        },
      },
    }),
  );
}

export function QuestionDialog() {
  const now = useQuestion((s) => s.now);
  return now && <Asking key={now.title} q={now} />;
}

function Asking({ q }: { q: Question }) {
  const [text, setText] = useState(q.value ?? "");
  const ready = q.value === undefined || text.trim() !== "";
  return (
    <Dialog open onClose={() => q.answer(null)} className="relative z-50">
      <div className="fixed inset-0 flex items-start justify-center bg-black/45 pt-[20vh]">
        <DialogPanel className="w-[400px] rounded-lg border border-line bg-panel p-4 shadow-2xl">
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (ready) q.answer(text);
            }}
          >
            <DialogTitle className="font-semibold">{q.title}</DialogTitle>
            {q.text && <p className="mt-2 text-quiet">{q.text}</p>}
            {q.value !== undefined && (
              <input
                autoFocus
                aria-label={q.title}
                value={text}
                onChange={(e) => setText(e.target.value)}
                onFocus={(e) => e.target.select()}
                className="mt-3 h-[28px] w-full rounded-sm border border-line bg-ground px-2"
              />
            )}
            <div className="mt-4 flex justify-end gap-2">
              <Button onClick={() => q.answer(null)}>Leave it</Button>
              <button
                type="submit"
                disabled={!ready}
                autoFocus={q.value === undefined}
                className="h-[26px] rounded-md border border-verdigris bg-verdigris px-2.5 font-medium text-on-verdigris disabled:opacity-45"
              >
                {q.yes}
              </button>
            </div>
          </form>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
