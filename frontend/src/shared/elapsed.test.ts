import { afterEach, describe, expect, it, vi } from "vitest";

import { elapsedMs, thisMoment, wasSet } from "./elapsed";

const HOUR_MS = 3_600_000;

/** The clocks of a page: so much has passed, by the one and by the other. */
function passes(wallMs: number, pageMs: number) {
  const since = thisMoment();
  vi.spyOn(Date, "now").mockReturnValue(since.wallMs + wallMs);
  vi.spyOn(performance, "now").mockReturnValue(since.pageMs + pageMs);
  return since;
}

afterEach(() => void vi.restoreAllMocks());

describe("how long ago a moment is", () => {
  it.each([
    ["both clocks go", 5_000, 5_000, 5_000, false],
    ["the clock is put back by an hour", 5_000 - HOUR_MS, 5_000, 5_000, true],
    ["the clock is put on by an hour", 5_000 + HOUR_MS, 5_000, 5_000 + HOUR_MS, true],
    ["the tablet sleeps for an hour", 5_000 + HOUR_MS, 5_000, 5_000 + HOUR_MS, true],
    ["a clock goes a little wrong", 5_300, 5_000, 5_300, false],
  ])("is told when %s", (_, wallMs, pageMs, elapsed, isSet) => {
    const since = passes(wallMs, pageMs);
    expect(elapsedMs(since)).toBeCloseTo(elapsed, 3);
    expect(wasSet(since)).toBe(isSet);
  });
});
