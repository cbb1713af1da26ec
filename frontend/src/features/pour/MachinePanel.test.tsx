// @vitest-environment jsdom
import "fake-indexeddb/auto";

import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Pour } from "../../api/client";
import { Line } from "../../testing/line";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { MachinePanel } from "./MachinePanel";
import { useOutbox } from "./outbox";
import type { Press } from "./presses";
import { startWhenTaken, useStartAsked } from "./startWithPour";

vi.setConfig({ testTimeout: 60_000 });

const POUR = {
  id: "p",
  coats: [{ number: 1, rates: { over_rpm: 8, round_rpm: 3.1, reverse_s: null } }],
} as unknown as Pour;
const DRUM = { topic: "device", id: "m", kind: "machine", name: "Drum", is_there: true };
const inMould: Press = {
  key: "k",
  pour: "p",
  what: { kind: "tick", coat: 1, step: "pour" },
  pressedMs: 0,
};

function panel(answer: () => unknown = () => ({})) {
  const heard = aServer(answer);
  inPage(<MachinePanel pour={POUR} coat={1} />);
  const says = (more: object) => {
    const data = JSON.stringify({ ...DRUM, state: "standing", unreadable: 0, ...more });
    act(() => Line.opened.at(-1)?.onmessage?.(new MessageEvent("message", { data })));
  };
  says({});
  const start = () => screen.getByRole<HTMLButtonElement>("button", { name: "Start it turning" });
  return { says, start, orders: () => heard.map(({ method, path }) => `${method} ${path}`) };
}

const waits = (presses: readonly Press[]) =>
  act(() => useOutbox.setState({ presses: [...presses] }));

beforeEach(() => {
  vi.stubGlobal("EventSource", Line);
  useOutbox.setState({ presses: [] });
  useStartAsked.setState({ asked: null });
});
afterEach(leavePage);

describe("the machine", () => {
  it("is not started before the server knows that the coat is in the mould", async () => {
    const { start, orders } = panel();
    waits([inMould]);
    expect(start().disabled).toBe(true);
    fireEvent.click(start());
    waits([]);
    expect(start().disabled).toBe(false);
    expect(orders()).toEqual([]);
    fireEvent.click(start());
    await waitFor(() => expect(orders()).toEqual(["PUT /pours/p/machine"]));
  });

  it("waits for no press of another pour", () => {
    const { start } = panel();
    waits([{ ...inMould, pour: "another" }]);
    expect(start().disabled).toBe(false);
  });

  it("starts by itself once the press that asked for it is taken, and not where that was late", async () => {
    const { orders } = panel();
    await act(() => startWhenTaken("p", 1, Promise.resolve()));
    await waitFor(() => expect(orders()).toEqual(["PUT /pours/p/machine"]));
    act(() => useStartAsked.setState({ asked: { pour: "p", coat: 1, isLate: true } }));
    expect(screen.getByRole("alert").textContent).toContain("Start it when hands are clear");
    expect(orders()).toHaveLength(1);
  });

  it("says why it stands, and what the server did not take", async () => {
    const { says, start } = panel(() => new Refusal(409, "Nothing is in the mould."));
    says({ fault: "emergency-stop" });
    expect(screen.getByRole("alert").textContent).toContain("emergency stop is pressed");
    expect(start().disabled).toBe(true);
    says({});
    fireEvent.click(start());
    await screen.findByText(/Nothing is in the mould/);
  });
});
