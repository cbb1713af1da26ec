import { describe, expect, it } from "vitest";

import { cueAt, followed, heldAt } from "./pattern";

const step = (t_s: number, tilt_deg: number, azimuth_deg: number) => ({
  t_s,
  tilt_deg,
  azimuth_deg,
});
const PATTERN = [step(0, 0, 0), step(4, 120, 0), step(10, 60, 300)];

describe("how a mould is held by a pattern", () => {
  it("lies between its steps", () => {
    expect(heldAt(PATTERN, 2)).toEqual({ tilt: 60, azimuth: 0 });
    expect(heldAt(PATTERN, 7)).toEqual({ tilt: 90, azimuth: 150 });
    expect(heldAt(PATTERN, -3)).toEqual({ tilt: 0, azimuth: 0 });
  });

  it("begins again after its end, and does not turn back", () => {
    expect(heldAt(PATTERN, 12)).toEqual({ tilt: 60, azimuth: 300 });
    expect(heldAt(PATTERN, 27)?.azimuth).toBe(750);
  });

  it("is nothing where hands are led by the eye", () => {
    expect(heldAt([], 3)).toBeNull();
  });
});

describe("the tone of a move", () => {
  const HELD = [...PATTERN, step(12, 60, 300)];

  it("is another one for tilting and for turning, and none while it is held", () => {
    expect(cueAt(HELD, 1)?.tone).toBe("tilt");
    expect(cueAt(HELD, 5)?.tone).toBe("turn");
    expect(cueAt(HELD, 11)?.tone).toBeNull();
  });

  it("comes once a move, round after round", () => {
    expect(cueAt(HELD, 4.1)?.step).toBe(cueAt(HELD, 9.9)?.step);
    expect(cueAt(HELD, 13)?.tone).toBe("tilt");
    expect(cueAt(HELD, 13)?.step).not.toBe(cueAt(HELD, 1)?.step);
  });

  it("is nothing without a pattern", () => {
    expect(cueAt([], 3)).toBeNull();
  });
});

describe("a pattern that is followed at the pace of the resin", () => {
  it("is as far as the time where the room is as planned", () => {
    expect(followed({ rolledS: 0, patternS: 0, pace: 1 }, 12)).toBe(12);
  });

  it("goes on from where it was when the room changed", () => {
    const warmer = { rolledS: 100, patternS: 100, pace: 1.5 };
    expect(followed(warmer, 100)).toBe(100);
    expect(followed(warmer, 120)).toBe(130);
  });

  it("never goes back where clocks differ a little", () => {
    expect(followed({ rolledS: 50, patternS: 60, pace: 1.2 }, 49.8)).toBe(60);
  });
});
