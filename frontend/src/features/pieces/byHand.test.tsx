// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Taping } from "../../api/client";
import { useUnits } from "../../shared/units";
import { aServer, inPage, leavePage, Refusal, type Asked } from "../../testing/page";
import { WeighedForm } from "./ByHandForms";
import { TapeForm } from "./TapeForm";

vi.mock("../../husk/TapedView", () => ({ default: () => null }));
vi.setConfig({ testTimeout: 60_000 });
beforeEach(() => useUnits.setState({ system: "metric" }));
afterEach(leavePage);

/** A cylinder, whatever is taped. */
const silhouette = (taping: Taping) => ({
  heights_m: taping.stations.map((one) => one.height_m),
  half_widths_m: taping.stations.map(() => 0.06),
  half_depths_m: taping.stations.map(() => 0.05),
  area_m2: 0.1,
  volume_m3: 0.002,
  area_rel_error: 0.05,
  findings: [],
  asks: [],
});

async function aTape(answer?: (asked: Asked) => unknown) {
  const heard = aServer((asked) => {
    const told = answer?.(asked);
    if (told !== undefined) return told;
    if (asked.path === "/taping/preview") return silhouette(asked.body as Taping);
    if (asked.path === "/pieces/taped") return { id: "new" };
    return {};
  });
  const page = inPage(<TapeForm />, "/pieces/by-hand");
  await waitFor(() => expect(heard.length).toBeGreaterThan(0));
  const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
  const type = (label: string, text: string) =>
    fireEvent.change(field(label), { target: { value: text } });
  const previews = () =>
    heard.filter((one) => one.path === "/taping/preview").map((one) => one.body as Taping);
  const kept = () => heard.filter((one) => one.path === "/pieces/taped");
  return { ...page, field, type, previews, kept };
}

const press = (words: string) => fireEvent.click(screen.getByText(words));

describe("girths by tape", () => {
  it("are drawn as they are typed, with a comma as with a point", async () => {
    const { type, previews } = await aTape();
    type("girth of station 1", "385,5");
    await waitFor(() => expect(previews().at(-1)?.stations[0]?.girth_m).toBeCloseTo(0.3855, 9));
    type("width of station 1", "120");
    await waitFor(() => expect(previews().at(-1)?.stations[0]?.width_m).toBeCloseTo(0.12, 9));
    type("width of station 1", "");
    await waitFor(() => expect(previews().at(-1)?.stations[0]?.width_m).toBeNull());
  });

  it("stay the same lengths when the units are changed, and go out as such", async () => {
    const { type, field, previews, kept } = await aTape();
    type("girth of station 1", "381");
    type("height of station 2", "about two inches");
    act(() => useUnits.getState().toggle());
    // NIST SP 811, appendix B.8: 1 in = 25.4 mm exactly.
    expect(field("girth of station 1").value).toBe("15");
    expect(field("height of station 2").value).toBe("about two inches");
    type("height of station 2", "2");
    await waitFor(() => expect(previews().at(-1)?.stations[1]?.height_m).toBeCloseTo(0.0508, 9));
    expect(previews().at(-1)?.stations[0]?.girth_m).toBeCloseTo(0.381, 6);
    expect(previews().at(-1)?.top_m).toBeCloseTo(0.28, 5);
    act(() => useUnits.getState().toggle());
    expect([field("girth of station 1").value, field("height of station 2").value]).toEqual([
      "381",
      "50.8",
    ]);
    type("Name of the piece", "Head");
    press("Save this piece");
    await waitFor(() => expect(kept().length).toBe(1));
  });

  it("that are no numbers are not asked about, and nothing can be saved", async () => {
    const { type, previews, kept } = await aTape();
    type("Name of the piece", "Head");
    type("height of station 3", "");
    const before = previews().length;
    expect(document.body.textContent).toContain("A height or a girth is not a number");
    press("Save this piece");
    expect([previews().length, kept().length]).toEqual([before, 0]);
  });

  it("of an open top have none", async () => {
    const { type, previews } = await aTape();
    type("Height of the closed top; empty when it is open above", " ");
    await waitFor(() => expect(previews().at(-1)?.top_m).toBeNull());
    press("A mask, open behind");
    await waitFor(() => expect(previews().at(-1)).toMatchObject({ half: true, outline: "head" }));
    expect(screen.getByText("Girth, edge to edge")).toBeTruthy();
  });

  it("are moved on the silhouette by keys, by half a centimetre", async () => {
    const { field } = await aTape();
    const handle = await screen.findByLabelText("Girth of station 2");
    fireEvent.keyDown(handle, { key: "ArrowRight" });
    expect(field("girth of station 2").value).toBe("405");
    fireEvent.keyDown(await screen.findByLabelText("Girth of station 2"), { key: "ArrowUp" });
    expect(field("height of station 2").value).toBe("65");
    // The rim is the lowest there is.
    fireEvent.keyDown(await screen.findByLabelText("Girth of station 1"), { key: "ArrowDown" });
    expect(field("height of station 1").value).toBe("0");
  });

  it("lead to the piece that is made of them", async () => {
    const { type, kept, where } = await aTape();
    await screen.findByLabelText("Girth of station 2");
    type("Name of the piece", "Head");
    press("Save this piece");
    await waitFor(() => expect(where()).toBe("/pieces/new"));
    expect(kept()[0]?.body).toMatchObject({ name: "Head", taping: { half: false } });
  });

  it("that cannot be are told why, and are not saved", async () => {
    const { type, kept } = await aTape(({ path }) =>
      path === "/taping/preview" ? new Refusal(422, "Two girths have one height.") : undefined,
    );
    await screen.findByText(/Two girths have one height\./);
    type("Name of the piece", "Head");
    expect(screen.getByText("Save this piece").closest("button")?.disabled).toBe(true);
    expect(kept()).toEqual([]);
  });

  it("are added and removed", async () => {
    const { previews } = await aTape();
    press("Add a girth");
    expect(screen.getByLabelText<HTMLInputElement>("girth of station 6").value).toBe("");
    fireEvent.click(screen.getByLabelText("Remove station 6"));
    fireEvent.click(screen.getByLabelText("Remove station 1"));
    await waitFor(() => expect(previews().at(-1)?.stations.length).toBe(4));
    expect(previews().at(-1)?.stations[0]?.height_m).toBeCloseTo(0.06, 9);
  });
});

describe("a weighed cast", () => {
  it("has its readings in the units they are shown in, also after those change", () => {
    aServer(() => ({ materials: [], total: 0 }));
    inPage(<WeighedForm />);
    const readings = () => screen.getByLabelText<HTMLInputElement>(/^Readings of the wall/);
    fireEvent.change(readings(), { target: { value: "2.54; 5.08 thick" } });
    expect(document.body.textContent).toContain("A reading is not a number.");
    act(() => useUnits.getState().toggle());
    expect(readings().value).toBe("0.1; 0.2 thick");
    expect(document.body.textContent).toContain("Readings of the wall (in)");
  });
});
