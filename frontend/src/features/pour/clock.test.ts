import { describe, expect, it } from "vitest";

import { agreeing, surer, surest } from "./clock";

describe("the server's clock", () => {
  it("stays as it is known while a slow answer agrees with it", () => {
    const known = { offsetMs: -97_000, tripMs: 30 };
    // The server had just started: it answered after three seconds, half of them too late.
    expect(surer(known, { offsetMs: -95_640, tripMs: 2_720 })).toEqual(known);
    expect(surer(undefined, { offsetMs: -95_640, tripMs: 2_720 }).offsetMs).toBe(-95_640);
  });

  it("is measured anew when somebody set a clock", () => {
    const known = { offsetMs: -97_000, tripMs: 30 };
    expect(surer(known, { offsetMs: 0, tripMs: 400 }).offsetMs).toBe(0);
    expect(surer(known, { offsetMs: -96_980, tripMs: 10 }).offsetMs).toBe(-96_980);
  });

  it("is not taken from what was measured before the clock was set, however surely", () => {
    const before = [
      { offsetMs: -97_000, tripMs: 4 },
      { offsetMs: -97_003, tripMs: 30 },
    ];
    const after = { offsetMs: -3_697_000, tripMs: 80 };
    expect(surest([...agreeing(before, after), after])).toEqual(after);
    const slow = { offsetMs: -96_600, tripMs: 700 };
    expect(agreeing(before, slow)).toEqual(before);
  });
});
