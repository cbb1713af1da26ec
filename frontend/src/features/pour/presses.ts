import type { Pour, PouredCoat, PourStep } from "../../api/client";

/** What a press at the bench does. */
export type What =
  | { kind: "tick"; coat: number; step: PourStep; parts?: { a: number; b: number } }
  | { kind: "take-back"; coat: number; step: PourStep }
  | { kind: "close"; status: "cast" | "spoilt"; cast_kg: number | null; note: string };

/** A press, kept until the server has taken it. */
export interface Press {
  /** Its own key: sent twice, it counts once. */
  key: string;
  pour: string;
  what: What;
  /** When it was pressed, by this machine's clock. [ms] */
  pressedMs: number;
  /** How far the server's clock was ahead of it then, where that was known. [ms] */
  aheadMs?: number;
  /** Typed in: when it was done. */
  at?: string;
  /** Why the server did not take it. */
  refused?: string;
  /** Its place among the kept ones. */
  number?: number;
}

export const STEPS: readonly PourStep[] = ["weigh", "mix", "pour", "gel"];
const DONE_AT = {
  weigh: "weighed_at",
  mix: "mixed_at",
  pour: "poured_at",
  gel: "gelled_at",
} as const satisfies Record<PourStep, keyof PouredCoat>;

/** When a press was, by the server's clock; what is known of that only now serves where need be. */
export const momentOf = ({ at, pressedMs, aheadMs }: Press, offsetMs: number) =>
  at ?? new Date(pressedMs + (aheadMs ?? offsetMs)).toISOString();

/** The pour as it stands once a press is taken; the server says the same when it has it. */
export function pressed(pour: Pour, press: Press, offsetMs: number): Pour {
  const { what } = press;
  if (press.refused !== undefined) return pour;
  const at = momentOf(press, offsetMs);
  if (what.kind === "close") return { ...pour, status: what.status, closed_at: at };
  const done = what.kind === "tick" ? at : null;
  const coats = pour.coats.map((coat) =>
    coat.number === what.coat ? ticked(pour, coat, what.step, done) : coat,
  );
  return { ...pour, coats, ...around(coats) };
}

function ticked(pour: Pour, coat: PouredCoat, step: PourStep, at: string | null): PouredCoat {
  const done = { ...coat, [DONE_AT[step]]: at };
  return step === "mix" ? { ...done, times: timesOf(pour, coat.number, at) } : done;
}

/** When the clocks run out of a coat that was mixed at a time: as the room has it, or the plan. */
function timesOf(pour: Pour, number: number, mixedAt: string | null): PouredCoat["times"] {
  const planned = pour.plan.coats[number - 1];
  if (!planned || mixedAt === null) return null;
  const room = pour.coats[number - 1]?.in_room?.now;
  const clock = room ?? planned;
  const after = (seconds: number) => new Date(Date.parse(mixedAt) + seconds * 1e3).toISOString();
  return {
    pour_by: after(clock.pour_by_s),
    roll_until: after(clock.roll_until_s),
    next_from: after(clock.next_from_s),
    next_until: after(clock.next_until_s),
    demould: after(room?.demould_s ?? pour.plan.demould_s),
  };
}

/** The step to do now, and the one done last. */
function around(coats: readonly PouredCoat[]): Pick<Pour, "next_step" | "last_step"> {
  const all = coats.flatMap((coat) =>
    STEPS.map((step) => ({ coat: coat.number, step, done: coat[DONE_AT[step]] !== null })),
  );
  const place = ({ coat, step }: (typeof all)[number]) => ({ coat, step });
  const next = all.find((one) => !one.done);
  const last = all.findLast((one) => one.done);
  return { next_step: next ? place(next) : null, last_step: last ? place(last) : null };
}

/** A key that nobody else makes, also where a page is not served securely. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");
}
