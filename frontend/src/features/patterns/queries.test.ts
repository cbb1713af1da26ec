import { describe, expect, it } from "vitest";

import { given, isSame, patternFile } from "./queries";

describe("what is asked of a pattern", () => {
  it("is the same whatever says nothing, in any order", () => {
    const kept = { kind: "skirt" as const, height_m: 0.08, flare: null };
    expect(isSame(kept, { height_m: 0.08, kind: "skirt" })).toBe(true);
    expect(isSame(kept, { kind: "skirt", height_m: 0.09 })).toBe(false);
    expect(isSame(kept, { kind: "skirt", height_m: 0.08, flare: 0 })).toBe(false);
    expect(isSame({ kind: "box", following: false }, { kind: "box" })).toBe(false);
  });

  it("leaves out what says nothing, and no more", () => {
    expect(given({ kind: "box", following: false, margin_m: null })).toEqual({
      kind: "box",
      following: false,
    });
  });

  it("is in the address of a file", () => {
    const query = { kind: "part-line" as const, following: true, parts: null };
    expect(patternFile({ of: "moulds", id: "7" }, "dxf", query)).toBe(
      "/api/v1/moulds/7/pattern/dxf?kind=part-line&following=true",
    );
  });
});
