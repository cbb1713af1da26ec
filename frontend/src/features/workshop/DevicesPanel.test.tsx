// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { Notices } from "../../shared/Notices";
import { Question } from "../../shared/Question";
import { Line } from "../../testing/line";
import { aServer, inPage, leavePage, Refusal, withDialogs } from "../../testing/page";
import { DevicesPanel } from "./DevicesPanel";

vi.setConfig({ testTimeout: 60_000 });

beforeEach(() => {
  withDialogs();
  Line.opened = [];
  vi.stubGlobal("EventSource", Line);
});
afterEach(leavePage);

const ROWS = [
  { id: "s", name: "Bench scale", kind: "scale", address: "", is_standin: true },
  { id: "p", name: "By the door", kind: "room", address: "/dev/ttyUSB1", is_standin: false },
  { id: "m", name: "Drum", kind: "machine", address: "", is_standin: true },
  { id: "t", name: "On the mould", kind: "turn", address: "", is_standin: true },
];

async function panel(answer: (method: string) => unknown = () => ({})) {
  const heard = aServer(({ method }) => (method === "GET" ? { devices: ROWS } : answer(method)));
  inPage(
    <>
      <DevicesPanel />
      <Question />
      <Notices />
    </>,
  );
  await screen.findByText("Bench scale");
  const says = (id: string, more: object) => {
    const kind = ROWS.find((one) => one.id === id)?.kind;
    const told = { topic: "device", id, kind, name: id, is_there: true, state: "", unreadable: 0 };
    const data = JSON.stringify({ ...told, ...more });
    act(() => Line.opened.at(-1)?.onmessage?.(new MessageEvent("message", { data })));
  };
  const shown = (name: string) =>
    screen.getByText(name).closest("li")?.querySelector("[role=status]")?.textContent;
  const sent = () => heard.filter((one) => one.method !== "GET");
  return { says, shown, sent };
}

describe("a device", () => {
  it("that nobody has heard of says so", async () => {
    const { shown } = await panel();
    expect(shown("On the mould")).toBe("not heard of yet");
  });

  it.each([
    ["s", "Bench scale", { kg: 0.0348, step_kg: 0.0001, steady: true }, "34.8 g"],
    ["s", "Bench scale", { kg: 0.0348, step_kg: 0.001, steady: false }, "35 g, moving"],
    ["s", "Bench scale", { kg: null }, "above its range"],
    ["s", "Bench scale", {}, "there"],
    ["s", "Bench scale", { is_there: false, kg: 0.1 }, "lost: it does not answer"],
    ["p", "By the door", { c: 22.44, rh: 43.4 }, "22.4 °C, 43 %"],
    ["m", "Drum", { state: "turning", over_rpm: 6, round_rpm: 4 }, "turning, 6 and 4 a minute"],
    ["m", "Drum", { state: "standing" }, "stands still"],
    ["m", "Drum", { state: "standing", fault: "emergency-stop" }, "stands: emergency stop"],
    ["t", "On the mould", { x: 0, y: -0.5, z: 0.866 }, "up is 0.00, -0.50, 0.87"],
  ])("%s (%s) that tells %o says %s", async (id, name, told, words) => {
    const { says, shown } = await panel();
    says(id, told);
    await waitFor(() => expect(shown(name)?.replaceAll("\u00a0", " ")).toBe(words));
  });

  it("of one's own is removed once that was asked; a stand-in is failed instead", async () => {
    const { sent } = await panel();
    const row = screen.getByText("By the door").closest("li");
    expect(row?.textContent).toContain("/dev/ttyUSB1");
    expect(screen.getAllByText("Simulate a fault …")).toHaveLength(3);
    fireEvent.click(screen.getByRole("button", { name: "Remove" }));
    expect(sent()).toEqual([]);
    const [, answer] = await screen.findAllByRole("button", { name: "Remove", hidden: true });
    fireEvent.click(answer as HTMLElement);
    await waitFor(() => expect(sent()[0]?.path).toBe("/devices/p"));
  });

  it("that is simulated fails to order", async () => {
    const { sent } = await panel();
    const scale = screen.getByText("Bench scale").closest("li");
    const entry = [...(scale?.querySelectorAll("button") ?? [])].find((one) =>
      one.textContent.startsWith("Drift"),
    );
    fireEvent.click(entry as HTMLElement);
    await waitFor(() => expect(sent()[0]?.path).toBe("/devices/s/fault"));
    expect(sent()[0]?.body).toEqual({ drift_g_min: 2 });
  });

  it("is added by name and place, and the fields are empty after that", async () => {
    const { sent } = await panel();
    const name = screen.getByLabelText<HTMLInputElement>("Name");
    const place = screen.getByLabelText<HTMLInputElement>("Where it is reached");
    const add = screen.getByRole<HTMLButtonElement>("button", { name: "Add it" });
    fireEvent.change(name, { target: { value: "Second scale" } });
    expect(add.disabled).toBe(true);
    fireEvent.change(place, { target: { value: "/dev/ttyUSB0" } });
    fireEvent.click(add);
    await waitFor(() => expect(name.value).toBe(""));
    const told = { name: "Second scale", kind: "scale", address: "/dev/ttyUSB0" };
    expect(sent()[0]?.body).toEqual(told);
    expect(place.value).toBe("");
  });

  it("that cannot be reached there is refused, and what was typed stays", async () => {
    await panel(() => new Refusal(422, "That is no serial port.", "address"));
    const place = screen.getByLabelText<HTMLInputElement>("Where it is reached");
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Scale" } });
    fireEvent.change(place, { target: { value: "COM1" } });
    fireEvent.click(screen.getByRole("button", { name: "Add it" }));
    await screen.findByText("That is no serial port.");
    expect(place.value).toBe("COM1");
  });
});
