import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { forgetStart, startWhenTaken, useStartAsked } from "./startWithPour";

const asked = () => useStartAsked.getState().asked;
const after = (ms: number) => new Promise((done) => setTimeout(done, ms));

describe("a machine that starts with the pour", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    forgetStart();
  });
  afterEach(() => void vi.useRealTimers());

  it("waits until the server knows that the coat is in the mould", async () => {
    void startWhenTaken("pour", 1, after(900));
    await vi.advanceTimersByTimeAsync(600);
    expect(asked()).toBeNull();
    await vi.advanceTimersByTimeAsync(600);
    expect(asked()).toEqual({ pour: "pour", coat: 1, isLate: false });
  });

  it("does not start where the press was taken late: hands may be in the frame", async () => {
    void startWhenTaken("pour", 2, after(6_000));
    await vi.advanceTimersByTimeAsync(6_000);
    expect(asked()).toEqual({ pour: "pour", coat: 2, isLate: true });
  });

  it("does not start late though the clock was put back meanwhile", async () => {
    void startWhenTaken("pour", 2, after(6_000));
    await vi.advanceTimersByTimeAsync(3_000);
    vi.setSystemTime(Date.now() - 3_600_000);
    await vi.advanceTimersByTimeAsync(3_000);
    expect(asked()?.isLate).toBe(true);
  });

  it("is forgotten with the next press", async () => {
    void startWhenTaken("pour", 1, after(10));
    await vi.advanceTimersByTimeAsync(10);
    void startWhenTaken("pour", 2, after(500));
    expect(asked()).toBeNull();
  });
});
