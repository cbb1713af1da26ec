// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { inPage, leavePage } from "../../testing/page";
import { WhenField } from "./WhenField";

beforeEach(() => {
  vi.stubEnv("TZ", "Europe/Berlin");
  vi.useFakeTimers();
});
afterEach(() => {
  leavePage();
  vi.unstubAllEnvs();
});

function aField(now: string) {
  vi.setSystemTime(new Date(now));
  const took: (string | null)[] = [];
  function Form() {
    const [at, setAt] = useState<string | null>(null);
    return (
      <WhenField
        value={at}
        onChange={(iso) => {
          took.push(iso);
          setAt(iso);
        }}
      />
    );
  }
  inPage(<Form />);
  fireEvent.click(screen.getByText("It was earlier"));
  const input = screen.getByLabelText<HTMLInputElement>("Done at, hours, minutes and seconds");
  const type = (text: string) => {
    fireEvent.change(input, { target: { value: text } });
    return took.at(-1);
  };
  return { input, type };
}

describe("when a step was really done", () => {
  it("is read as hours, minutes and seconds of this day", () => {
    const { type, input } = aField("2026-06-01T12:10:00Z");
    expect(type("14:05:30")).toBe("2026-06-01T12:05:30.000Z");
    expect(type(" 9:07 ")).toBe("2026-06-01T07:07:00.000Z");
    expect(input.getAttribute("aria-invalid")).toBe("false");
  });

  it("is nothing while it cannot be read, and says so", () => {
    const { type, input } = aField("2026-06-01T12:10:00Z");
    for (const text of ["14", "14:5", "now", "14:05:3", "14.05"]) {
      expect(type(text)).toBeNull();
      expect(input.getAttribute("aria-invalid")).toBe("true");
    }
    expect(type("")).toBeNull();
    expect(input.getAttribute("aria-invalid")).toBe("false");
  });

  it("was yesterday where it is before midnight and the clock says after it", () => {
    const { type } = aField("2026-06-01T22:04:00Z");
    // It is four minutes past midnight in Berlin.
    expect(type("23:58:20")).toBe("2026-06-01T21:58:20.000Z");
    expect(type("00:03")).toBe("2026-06-01T22:03:00.000Z");
  });

  it("may be a moment ahead, as clocks differ", () => {
    const { type } = aField("2026-06-01T12:10:00Z");
    expect(type("14:10:40")).toBe("2026-06-01T12:10:40.000Z");
  });

  it("was yesterday by the clock on the wall on the day the clocks change", () => {
    // Directive 2000/84/EC: clocks go back at 01:00 UTC on the last Sunday of October.
    const { type } = aField("2026-10-25T23:05:00Z");
    expect(type("23:50")).toBe("2026-10-25T22:50:00.000Z");
  });
});
