import { describe, expect, it } from "vitest";

import type { Pour } from "../../api/client";
import { newKey, pressed, type Press, type What } from "./presses";
import { surest } from "./clock";

const COAT = { pour_by_s: 90, roll_until_s: 300, next_from_s: 600, next_until_s: 1500 };
const UNDONE = { weighed_at: null, mixed_at: null, poured_at: null, gelled_at: null, times: null };
const POUR = {
  id: "p",
  status: "open",
  plan: { coats: [COAT, COAT], demould_s: 3600 },
  coats: [
    { number: 1, ...UNDONE },
    { number: 2, ...UNDONE },
  ],
  next_step: { coat: 1, step: "weigh" },
  last_step: null,
} as unknown as Pour;
const NOON_MS = Date.parse("2026-06-01T12:00:00Z");
const AHEAD_MS = -97_000;

function press(what: What, secondsAfterNoon: number, more: Partial<Press> = {}): Press {
  // By the tablet's clock, which is 97 s ahead.
  const pressedMs = NOON_MS + secondsAfterNoon * 1e3 - AHEAD_MS;
  return { key: newKey(), pour: "p", what, pressedMs, ...more };
}

const after = (...presses: Press[]) =>
  presses.reduce((pour, one) => pressed(pour, one, AHEAD_MS), POUR);
const tick = (coat: number, step: "weigh" | "mix" | "pour" | "gel", at: number) =>
  press({ kind: "tick", coat, step }, at);

describe("a pour with presses that the server does not know yet", () => {
  it("stands as the server will tell it", () => {
    const pour = after(tick(1, "weigh", 0), tick(1, "mix", 20));
    expect(pour.next_step).toEqual({ coat: 1, step: "pour" });
    expect(pour.last_step).toEqual({ coat: 1, step: "mix" });
    expect(pour.coats[0]?.mixed_at).toBe("2026-06-01T12:00:20.000Z");
    expect(pour.coats[0]?.times).toEqual({
      pour_by: "2026-06-01T12:01:50.000Z",
      roll_until: "2026-06-01T12:05:20.000Z",
      next_from: "2026-06-01T12:10:20.000Z",
      next_until: "2026-06-01T12:25:20.000Z",
      demould: "2026-06-01T13:00:20.000Z",
    });
    expect(POUR.coats[0]?.mixed_at).toBeNull();
  });

  it("goes on with the next coat, and ends after the last", () => {
    const first = (["weigh", "mix", "pour", "gel"] as const).map((step, at) => tick(1, step, at));
    expect(after(...first).next_step).toEqual({ coat: 2, step: "weigh" });
    const second = first.map((one, at) => press({ ...one.what, coat: 2 } as What, 100 + at));
    expect(after(...first, ...second).next_step).toBeNull();
    const closed = press({ kind: "close", status: "cast", cast_kg: 0.2, note: "" }, 200);
    expect(after(...first, ...second, closed).status).toBe("cast");
  });

  it("takes the last tick back, with its clocks", () => {
    const back = press({ kind: "take-back", coat: 1, step: "mix" }, 30);
    const pour = after(tick(1, "weigh", 0), tick(1, "mix", 20), back);
    expect(pour.next_step).toEqual({ coat: 1, step: "mix" });
    expect(pour.coats[0]?.times).toBeNull();
  });

  it("is not changed by what was refused, and takes a typed time as it is", () => {
    const refused = press({ kind: "tick", coat: 1, step: "weigh" }, 0, {
      refused: "Done already.",
    });
    expect(after(refused)).toEqual(POUR);
    const typed = press({ kind: "tick", coat: 1, step: "weigh" }, 0, {
      at: "2026-06-01T11:30:00Z",
    });
    expect(after(typed).coats[0]?.weighed_at).toBe("2026-06-01T11:30:00Z");
  });
});

describe("keys and clocks", () => {
  it("makes keys as RFC 9562 has them, each once", () => {
    const keys = Array.from({ length: 200 }, newKey);
    expect(new Set(keys).size).toBe(200);
    for (const key of keys)
      expect(key).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  });

  it("trusts the answer that was quickest there and back (as RFC 5905's clock filter does)", () => {
    const samples = [
      { offsetMs: 250, tripMs: 900 },
      { offsetMs: 101, tripMs: 12 },
      { offsetMs: 40, tripMs: 300 },
    ];
    expect(surest(samples)?.offsetMs).toBe(101);
    expect(surest([])).toBeUndefined();
  });
});
