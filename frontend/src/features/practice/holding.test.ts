import { describe, expect, it } from "vitest";

import { dragged, heldWith, isWay, UPRIGHT, upOf } from "./holding";

const TRAY = { out: [0, 0, 1], aside: [1, 0, 0], across: [0, 1, 0] };

describe("a tray that is held", () => {
  it("has up out of its opening as long as it stands", () => {
    expect(upOf(TRAY, UPRIGHT)).toEqual([-0, 0, 1].map((one) => expect.closeTo(one) as number));
  });

  it("has up away from the side that it is tilted to", () => {
    // A quarter over to its own aside: what was aside is down now.
    const [x, y, z] = upOf(TRAY, { tilt: Math.PI / 2, side: 0 });
    expect([x, y, z]).toEqual([-1, 0, 0].map((one) => expect.closeTo(one) as number));
    const over = upOf(TRAY, { tilt: Math.PI / 2, side: Math.PI / 2 });
    expect(over).toEqual([0, -1, 0].map((one) => expect.closeTo(one) as number));
  });

  it("goes on as long as a key is held, and no further back than upright", () => {
    const half = heldWith(UPRIGHT, ["ArrowUp"], 0.5);
    expect(heldWith(half, ["ArrowUp"], 0.5).tilt).toBeCloseTo(2 * half.tilt);
    expect(heldWith(half, ["ArrowDown"], 9).tilt).toBe(0);
    expect(heldWith(half, ["ArrowLeft", "ArrowRight"], 1).side).toBeCloseTo(0);
    expect(heldWith(half, ["ArrowRight", "ArrowUp"], 1).side).toBeGreaterThan(0);
  });

  it("follows a pointer: up the screen is further over", () => {
    expect(dragged(UPRIGHT, 0, -100).tilt).toBeGreaterThan(0);
    expect(dragged(UPRIGHT, 0, 100).tilt).toBe(0);
    expect(dragged(UPRIGHT, -50, 0).side).toBeLessThan(0);
  });

  it("knows its keys", () => {
    expect(["ArrowUp", "a", "Enter"].map(isWay)).toEqual([true, false, false]);
  });
});
