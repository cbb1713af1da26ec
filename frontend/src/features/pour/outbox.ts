import { create } from "zustand";

import { client, ProblemError, sentenceOf, unwrap, type Pour } from "../../api/client";
import { forgetPress, keepPress, keptPresses } from "./kept";
import { momentOf, newKey, type Press, type What } from "./presses";
import { isMeasured, measureOnce, offsetMs } from "./serverClock";

/** Presses on their way to the server: kept here until it has them, sent in their order. */
interface Outbox {
  presses: readonly Press[];
  /** The server does not answer. */
  isAway: boolean;
}

export const useOutbox = create<Outbox>(() => ({ presses: [], isAway: false }));

/** A server that says nothing for so long is away. [ms] */
const PATIENCE_MS = 4_000;
const AGAIN_MS = 700;
/** What takes longer is said. [ms] */
const SLOW_MS = 1_000;
const taken = new Map<string, (pour: Pour) => void>();
const others = new BroadcastChannel("mild-husk presses");
let sending = false;
let again: number | undefined;

/** Notes a press at once; what is promised is the pour, once the server has taken it. */
export function press(pour: string, what: What, at: string | null = null): Promise<Pour> {
  const made: Press = {
    key: newKey(),
    pour,
    what,
    pressedMs: Date.now(),
    ...(isMeasured() && { aheadMs: offsetMs() }),
    ...(at !== null && { at }),
  };
  useOutbox.setState(({ presses }) => ({ presses: [...presses, made] }));
  void keep(made);
  return new Promise((done) => taken.set(made.key, done));
}

async function keep(made: Press) {
  try {
    const kept = await keepPress(made);
    if (isIn(useOutbox.getState().presses, made.key)) replace(kept);
    // It was sent meanwhile, with one that came after it.
    else if (kept.number !== undefined) await forgetPress(kept.number);
    others.postMessage("changed");
  } catch {
    // A browser that keeps nothing still sends it.
  }
  void send();
}

/** Sends what waits, one after the other; what is refused is put aside with its reason. */
export async function send(): Promise<void> {
  if (sending) return;
  sending = true;
  window.clearTimeout(again);
  try {
    for (let next = waiting(); next; next = waiting()) if (!(await sendOne(next))) break;
  } finally {
    sending = false;
  }
  if (waiting()) again = window.setTimeout(() => void send(), AGAIN_MS);
}

const waiting = () => useOutbox.getState().presses.find((one) => one.refused === undefined);

async function sendOne(next: Press): Promise<boolean> {
  const slow = window.setTimeout(() => useOutbox.setState({ isAway: true }), SLOW_MS);
  try {
    await measureOnce();
    const pour = await posted(next);
    useOutbox.setState({ isAway: false });
    // First what has changed, then that nothing waits for it: it never looks undone.
    heard.forEach((hears) => hears(pour));
    drop(next);
    taken.get(next.key)?.(pour);
    taken.delete(next.key);
    return true;
  } catch (error) {
    // Whoever has to sign in first has lost nothing: it is sent once they have.
    const isOut = error instanceof ProblemError && error.status === 401;
    const isAnswer = error instanceof ProblemError && error.status >= 400 && error.status < 502;
    const isRefusal = isAnswer && !isOut;
    useOutbox.setState({ isAway: !isAnswer });
    if (isRefusal) await putAside(next, sentenceOf(error));
    return isRefusal;
  } finally {
    window.clearTimeout(slow);
  }
}

async function putAside(refused: Press, why: string) {
  const noted = { ...refused, refused: why };
  replace(noted);
  // An answer is asked for what is not taken: the pour may be another by now.
  heard.forEach((hears) => hears(null));
  await keepPress(noted).catch(() => undefined);
  others.postMessage("changed");
}

function posted({ key, pour, what, ...press }: Press): Promise<Pour> {
  const path = { id: pour };
  const signal = AbortSignal.timeout(PATIENCE_MS);
  const at = momentOf({ key, pour, what, ...press }, offsetMs());
  if (what.kind === "tick") {
    const { coat, step, parts } = what;
    const body = { press: key, at, coat, step, ...(parts && { parts }) };
    return unwrap(client.POST("/api/v1/pours/{id}/steps", { params: { path }, body, signal }));
  }
  if (what.kind === "take-back") {
    const query = { press: key, coat: what.coat, step: what.step };
    const params = { path, query };
    return unwrap(client.DELETE("/api/v1/pours/{id}/steps/last", { params, signal }));
  }
  const { status, cast_kg, note } = what;
  const body = { press: key, at, status, note, ...(cast_kg !== null && { cast_kg }) };
  return unwrap(client.POST("/api/v1/pours/{id}/close", { params: { path }, body, signal }));
}

const heard = new Set<(pour: Pour | null) => void>();

/** Calls with every pour the server answers with, or with null when it refused. */
export function onTaken(hears: (pour: Pour | null) => void): () => void {
  heard.add(hears);
  return () => heard.delete(hears);
}

/** Sends a refused press again, as it was; perhaps it was the clock that was refused. */
export function tryAgain(refused: Press) {
  const again = { ...refused };
  delete again.refused;
  delete again.aheadMs;
  replace(again);
  void keep(again);
}

/** Leaves a refused press out. */
export function leaveOut(refused: Press) {
  drop(refused);
  others.postMessage("changed");
}

function replace(changed: Press) {
  useOutbox.setState(({ presses }) => ({
    presses: presses.map((one) => (one.key === changed.key ? changed : one)),
  }));
}

function drop(gone: Press) {
  const known = useOutbox.getState().presses.find((one) => one.key === gone.key);
  useOutbox.setState(({ presses }) => ({
    presses: presses.filter((one) => one.key !== gone.key),
  }));
  const number = known?.number ?? gone.number;
  if (number !== undefined) void forgetPress(number).then(() => others.postMessage("changed"));
}

/** Takes over what was kept, of this page before it was reloaded or of another one. */
async function load() {
  const kept = await keptPresses();
  const known = useOutbox.getState().presses.filter((one) => one.number === undefined);
  useOutbox.setState({ presses: [...kept, ...known.filter(({ key }) => !isIn(kept, key))] });
  void send();
}

const isIn = (presses: readonly Press[], key: string) => presses.some((one) => one.key === key);

others.onmessage = () => void load();
window.addEventListener("online", () => void send());
void load();
