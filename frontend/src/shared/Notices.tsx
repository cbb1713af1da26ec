import { useEffect, useRef, type ReactNode } from "react";
import { create } from "zustand";

import { sentenceOf } from "../api/client";

interface Notice {
  id: string;
  kind: "news" | "refusal";
  words: ReactNode;
}

interface NoticesState {
  notices: readonly Notice[];
  /** Tell what was done; a notice of the same id gives way. */
  say: (words: ReactNode, options?: { id?: string; seconds?: number }) => void;
  /** Tell why something was not done. */
  refuse: (error: unknown) => void;
  withdraw: (id: string) => void;
}

const NEWS_S = 4;
/** A refusal is a sentence to read. */
const REFUSAL_S = 8;
let told = 0;

/** Short words about what has just been done, or why it was not. */
export const useNotices = create<NoticesState>()((set, get) => {
  function add(notice: Notice, seconds: number) {
    const others = get().notices.filter((one) => one.id !== notice.id);
    set({ notices: [...others, notice] });
    setTimeout(() => {
      set({ notices: get().notices.filter((one) => one !== notice) });
    }, 1e3 * seconds);
  }
  return {
    notices: [],
    say: (words, { id = `${++told}`, seconds = NEWS_S } = {}) =>
      add({ id, kind: "news", words }, seconds),
    refuse: (error) =>
      add({ id: `${++told}`, kind: "refusal", words: sentenceOf(error) }, REFUSAL_S),
    withdraw: (id) => set({ notices: get().notices.filter((one) => one.id !== id) }),
  };
});

/** Where they are seen and read aloud, over whatever dialog is open; once in the application. */
export function Notices() {
  const notices = useNotices((state) => state.notices);
  const place = useRef<HTMLDivElement>(null);

  useEffect(() => {
    const shown = place.current;
    // Always there, so that what is put into it is read aloud; shown anew above a dialog only.
    if (document.querySelector("dialog[open]")) shown?.hidePopover?.();
    if (!shown?.matches(":popover-open")) shown?.showPopover?.();
  }, [notices]);

  const of = (kind: Notice["kind"]) =>
    notices.filter((one) => one.kind === kind).map((one) => <div key={one.id}>{one.words}</div>);
  return (
    <div ref={place} popover="manual" className="notices">
      <div role="status">{of("news")}</div>
      <div role="alert">{of("refusal")}</div>
    </div>
  );
}
