// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { useUnits } from "./units";

// A slow moment of the machine is no fault.
vi.setConfig({ testTimeout: 60_000 });

interface Asked {
  body: { text: string; kind: string; system: string };
  answer: (body: unknown, status?: number) => void;
}

const PAUSE_MS = 250;
let asked: Asked[] = [];

async function aField(value = 0.003) {
  const { QuantityField } = await import("./QuantityField");
  const took = vi.fn<(value: number) => void>();
  const unreadable = vi.fn<(unreadable: boolean) => void>();
  let setOutside: (value: number) => void = () => undefined;
  function Form() {
    const [wall, setWall] = useState(value);
    setOutside = setWall;
    return (
      <QuantityField
        label="Least wall"
        kind="m"
        value={wall}
        onChange={(next) => {
          took(next);
          setWall(next);
        }}
        onUnreadable={unreadable}
      />
    );
  }
  render(<Form />);
  const input = screen.getByLabelText<HTMLInputElement>("Least wall");
  const type = (text: string) => fireEvent.change(input, { target: { value: text } });
  return { input, took, unreadable, type, setOutside: (to: number) => act(() => setOutside(to)) };
}

/** The field pauses, asks, and is answered. */
const pause = () => act(() => vi.advanceTimersByTimeAsync(PAUSE_MS + 20));

beforeEach(() => {
  vi.useFakeTimers();
  asked = [];
  useUnits.setState({ system: "metric" });
  vi.stubGlobal("fetch", async (request: Request) => {
    const body = (await request.json()) as Asked["body"];
    return new Promise<Response>((done) => {
      const answer: Asked["answer"] = (told, status = 200) => done(Response.json(told, { status }));
      asked.push({ body, answer });
    });
  });
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

describe("a field for a quantity", () => {
  it("shows it in the unit of the workshop, and takes plain numbers at once", async () => {
    const { input, took, unreadable, type } = await aField();
    expect(input.value).toBe("3");
    type("2,5");
    expect(took).toHaveBeenLastCalledWith(expect.closeTo(0.0025, 12));
    expect(unreadable).toHaveBeenLastCalledWith(false);
    expect(asked).toEqual([]);
    // What was typed stands as it was typed.
    expect(input.value).toBe("2,5");
    act(() => useUnits.setState({ system: "imperial" }));
    // NIST SP 811 (2008), B.8: an inch is 25.4 mm.
    expect(Number(input.value)).toBeCloseTo(2.5 / 25.4, 5);
  });

  it("says what is no number, with one that is, and keeps the last value", async () => {
    const { input, took, unreadable, type } = await aField();
    type("thin");
    expect(took).not.toHaveBeenCalled();
    expect(unreadable).toHaveBeenLastCalledWith(true);
    expect(input.getAttribute("aria-invalid")).toBe("true");
    screen.getByText("“thin” is not a number; give for instance 3.");
    await pause();
    expect(asked).toEqual([]);
  });

  it("has the server read units and fractions, after a pause", async () => {
    const { took, unreadable, type } = await aField();
    type("1/8");
    type("1/8 in");
    expect(unreadable).toHaveBeenLastCalledWith(true);
    await pause();
    expect(asked.map((one) => one.body)).toEqual([{ text: "1/8 in", kind: "m", system: "metric" }]);
    asked[0]?.answer({ value: 0.003175, said: "" });
    await pause();
    expect(took).toHaveBeenLastCalledWith(0.003175);
    expect(unreadable).toHaveBeenLastCalledWith(false);
  });

  it("takes no answer to what stands there no more", async () => {
    const { input, took, type } = await aField();
    type("1/8 in");
    await pause();
    type("4");
    asked[0]?.answer({ value: 0.003175, said: "" });
    await pause();
    expect(took.mock.calls.map(([value]) => value)).toEqual([expect.closeTo(0.004, 12)]);
    expect(input.value).toBe("4");
  });

  it("says why the server could not read it", async () => {
    const { took, type } = await aField();
    type("3 g");
    await pause();
    asked[0]?.answer({ value: null, said: "'3 g' is no length." });
    await pause();
    screen.getByText("'3 g' is no length.");
    type("3 mm");
    await pause();
    asked[1]?.answer({ detail: "It is busy; try again." }, 503);
    await pause();
    screen.getByText("It is busy; try again.");
    expect(took).not.toHaveBeenCalled();
  });

  it("shows what is changed from outside in place of what was typed", async () => {
    const { input, type, setOutside } = await aField();
    type("2.50");
    expect(input.value).toBe("2.50");
    setOutside(0.004);
    expect(input.value).toBe("4");
  });
});
