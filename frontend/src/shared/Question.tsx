import { Button } from "antd";
import { useState } from "react";
import { create } from "zustand";

import { Dialog } from "./Dialog";

interface Asked {
  title: string;
  /** What will be so afterwards. */
  content?: string;
  /** The verb of what is done. */
  ok: string;
  onOk: () => Promise<unknown>;
}

interface QuestionState {
  asked: Asked | null;
  ask: (asked: Asked) => void;
  end: () => void;
}

const useQuestion = create<QuestionState>()((set) => ({
  asked: null,
  ask: (asked) => set({ asked }),
  end: () => set({ asked: null }),
}));

/** Asks before something is done; it is done at a press, and the question stays until it is. */
export const useConfirm = () => useQuestion((state) => state.ask);

/** Where the question appears; once in the whole application. */
export function Question() {
  const { asked, end } = useQuestion();
  const [doing, setDoing] = useState(false);
  if (!asked) return null;

  async function agree(question: Asked) {
    setDoing(true);
    try {
      await question.onOk();
    } finally {
      setDoing(false);
      end();
    }
  }

  return (
    <Dialog title={asked.title} open onClose={end} role="alertdialog" width={440}>
      {asked.content && <p>{asked.content}</p>}
      <p className="answers">
        <Button autoFocus onClick={end}>
          Cancel
        </Button>
        <Button type="primary" loading={doing} onClick={() => void agree(asked)}>
          {asked.ok}
        </Button>
      </p>
    </Dialog>
  );
}
