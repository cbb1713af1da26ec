import { create } from "zustand";

import { elapsedMs, thisMoment } from "../../shared/elapsed";

/**
 * The press that says a coat is in the mould may start the machine as well, once the server has
 * it. Where the server takes that press too late, nothing starts: hands may be in the frame.
 */
interface Asked {
  pour: string;
  coat: number;
  isLate: boolean;
}

const PATIENCE_MS = 4_000;
export const useStartAsked = create<{ asked: Asked | null }>(() => ({ asked: null }));

/** Wants the machine started for a coat when its press is taken. */
export async function startWhenTaken(pour: string, coat: number, taken: Promise<unknown>) {
  const pressed = thisMoment();
  useStartAsked.setState({ asked: null });
  await taken;
  const isLate = elapsedMs(pressed) > PATIENCE_MS;
  useStartAsked.setState({ asked: { pour, coat, isLate } });
}

/** No machine is to be started any more. */
export const forgetStart = () => useStartAsked.setState({ asked: null });
