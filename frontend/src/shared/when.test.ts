import { afterEach, describe, expect, it, vi } from "vitest";

import { fieldOf, nextMorning, withOffset } from "./when";

afterEach(() => vi.unstubAllEnvs());

/** The clock of a machine that stands somewhere. */
const inZone = (zone: string) => vi.stubEnv("TZ", zone);

describe("a local time", () => {
  it.each([
    // ISO 8601-1:2019, 4.3.13: the shift of local time from UTC in hours and minutes.
    ["UTC", "2026-03-01T12:00:00+00:00"],
    ["Asia/Kolkata", "2026-03-01T17:30:00+05:30"],
    ["America/St_Johns", "2026-03-01T08:30:00-03:30"],
    ["Pacific/Kiritimati", "2026-03-02T02:00:00+14:00"],
  ])("goes to the server with the shift of %s", (zone, said) => {
    inZone(zone);
    const noon = new Date("2026-03-01T12:00:00Z");
    expect(withOffset(noon)).toBe(said);
    expect(new Date(withOffset(noon)).getTime()).toBe(noon.getTime());
    expect(fieldOf(noon)).toBe(said.slice(0, 16));
  });

  it("has the shift of its own day, not of today", () => {
    // Directive 2000/84/EC: summer time begins at 01:00 UTC on the last Sunday of March.
    inZone("Europe/Berlin");
    expect(withOffset(new Date("2026-03-29T00:59:00Z"))).toBe("2026-03-29T01:59:00+01:00");
    expect(withOffset(new Date("2026-03-29T01:00:00Z"))).toBe("2026-03-29T03:00:00+02:00");
  });
});

describe("the next morning", () => {
  it("is today's before eight, and tomorrow's after it", () => {
    inZone("Europe/Berlin");
    expect(fieldOf(nextMorning(new Date("2026-06-10T05:59:00Z")))).toBe("2026-06-10T08:00");
    expect(fieldOf(nextMorning(new Date("2026-06-10T06:00:01Z")))).toBe("2026-06-11T08:00");
  });

  it("is at eight by the clock on the wall, also on the day the clocks change", () => {
    inZone("Europe/Berlin");
    const evening = new Date("2026-10-24T18:00:00Z");
    expect(withOffset(nextMorning(evening))).toBe("2026-10-25T08:00:00+01:00");
    expect(withOffset(nextMorning(new Date("2026-12-31T20:00:00Z")))).toBe(
      "2027-01-01T08:00:00+01:00",
    );
  });

  it("leaves the time it is asked with as it is", () => {
    const now = new Date("2026-06-10T19:00:00Z");
    nextMorning(now);
    expect(now.toISOString()).toBe("2026-06-10T19:00:00.000Z");
  });
});
