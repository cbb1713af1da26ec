import { describe, expect, it } from "vitest";

import { feels, filmOf, readFrame } from "./frame";

const HEAD = {
  t_s: 1.5, gels_at_s: 300, up: [0, 0, 1], spilt_kg: 0, pool_kg: 0.02, wet: 0.4, rim_wet: 1,
  pa_s: 0.2, has_set: false, most_m: 0.004, corners: 3,
}; // prettier-ignore

function written(film: number[]): ArrayBuffer {
  const head = new TextEncoder().encode(`${JSON.stringify(HEAD)}\n`);
  // The second byte is a line's end itself.
  return Uint8Array.from([...head, ...film]).buffer;
}

describe("a frame of the tray", () => {
  it("is read back with the film on every corner", () => {
    const frame = readFrame(written([0, 10, 255]));
    expect(frame.t_s).toBe(1.5);
    const film = new Float32Array(3);
    filmOf(frame, film);
    expect(film[0]).toBe(0);
    expect(film[1]).toBeCloseTo((10 / 255) ** 2 * 0.004, 9);
    expect(film[2]).toBeCloseTo(0.004, 9);
  });

  it.each([
    [0.1, "like oil"],
    [1, "like syrup"],
    [8, "like honey"],
    [90, "stringy"],
    [null, "gelled"],
  ])("says how %s Pa s feels", (pa_s, said) => {
    expect(feels({ ...readFrame(written([0, 0, 0])), pa_s })).toBe(said);
  });
});
