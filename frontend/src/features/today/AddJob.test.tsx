// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { NewDayJob } from "../../api/client";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { AddJob } from "./AddJob";

vi.setConfig({ testTimeout: 60_000 });

/** The simulated browser lays nothing out: nothing changes its size. */
class NoSizes {
  readonly observe = () => undefined;
  readonly unobserve = () => undefined;
  readonly disconnect = () => undefined;
}

beforeEach(() => {
  vi.stubEnv("TZ", "Europe/Berlin");
  vi.stubGlobal("ResizeObserver", NoSizes);
});
afterEach(() => {
  leavePage();
  vi.unstubAllEnvs();
  vi.unstubAllGlobals();
});

const sheets = [
  { id: "s1", name: "Beak, chorus", piece_id: "beak" },
  { id: "s2", name: "Helmet, parade", piece_id: "helmet" },
];
const moulds = [
  { id: "m1", name: "Beak glove", piece_id: "beak", retired_at: null },
  { id: "m2", name: "Beak, torn", piece_id: "beak", retired_at: "2026-01-01T00:00:00Z" },
  { id: "m3", name: "Helmet, two parts", piece_id: "helmet", retired_at: null },
];

async function aForm(refuses = "") {
  const heard = aServer(({ method, path }) => {
    if (method === "POST") return refuses ? new Refusal(422, refuses) : { jobs: [] };
    if (path.startsWith("/sheets")) return { sheets, total: 2 };
    if (path.startsWith("/moulds")) return { moulds, total: 3 };
    return { supplies: [{ key: "soap", name: "Soap" }], total: 1 };
  });
  inPage(<AddJob />);
  await waitFor(() => expect(heard.length).toBe(3));
  const add = () => screen.getByText("Add it").closest("button");
  const type = (label: string, value: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value } });
  const sent = () =>
    heard.filter((one) => one.method === "POST").map((one) => one.body as NewDayJob);
  const submit = () => fireEvent.submit(screen.getByLabelText("Add a job"));
  /** Opens a choice, and returns what there is to choose. */
  function open(label: string) {
    fireEvent.mouseDown(screen.getByLabelText(label));
    return () =>
      [...document.querySelectorAll(".ant-select-item-option")].map((one) => one.textContent);
  }
  async function choose(label: string, option: string) {
    const offered = open(label);
    await waitFor(() => expect(offered()).toContain(option));
    fireEvent.click(screen.getByTitle(option));
  }
  return { add, type, sent, submit, open, choose };
}

describe("a job that is added", () => {
  it("of one's own has a name and whole minutes", async () => {
    const { add, type, sent, submit } = await aForm();
    fireEvent.click(screen.getByText("A task"));
    expect(add()?.disabled).toBe(true);
    type("Name", "  Sand the cheeks ");
    expect(add()?.disabled).toBe(false);
    for (const minutes of ["", "an hour", "30.5", "-5"]) {
      type("Minutes of work", minutes);
      expect(add()?.disabled).toBe(true);
    }
    submit();
    expect(sent()).toEqual([]);
    type("Minutes of work", "45");
    submit();
    await waitFor(() => expect(sent().length).toBe(1));
    expect(sent()[0]).toMatchObject({
      kind: "own",
      title: "Sand the cheeks",
      minutes: 45,
      sheet_id: null,
      mould_id: null,
      due: null,
      finish: null,
    });
    // The next one has a name of its own.
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe(""));
  });

  it("is due by the clock on the wall, with its shift from UTC", async () => {
    const { type, sent, submit } = await aForm();
    fireEvent.click(screen.getByText("A task"));
    type("Name", "Fetch the sand");
    type("Due, if it is", "2026-12-20T18:30");
    submit();
    await waitFor(() => expect(sent().length).toBe(1));
    expect(sent()[0]?.due).toBe("2026-12-20T18:30:00+01:00");
  });

  it("of a cast is called after its sheet, and offers the moulds of its piece in use", async () => {
    const { add, sent, submit, open, choose } = await aForm();
    expect(add()?.disabled).toBe(true);
    await choose("Cast sheet", "Beak, chorus");
    const offered = open("In which mould");
    await waitFor(() => expect(offered()).toContain("Beak glove"));
    expect(offered()).not.toContain("Beak, torn");
    expect(offered()).not.toContain("Helmet, two parts");
    fireEvent.click(screen.getByTitle("Beak glove"));
    submit();
    await waitFor(() => expect(sent().length).toBe(1));
    expect(sent()[0]).toMatchObject({
      kind: "cast",
      title: "Beak, chorus",
      sheet_id: "s1",
      mould_id: "m1",
      finish: { paint: "water-based", cut_outs: 0 },
    });
  });

  it("says what the server refuses, and keeps what was typed", async () => {
    const { type, submit } = await aForm("A job takes at most 10 days.");
    fireEvent.click(screen.getByText("A task"));
    type("Name", "Build a house");
    submit();
    await screen.findByText(/A job takes at most 10 days\./);
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Build a house");
  });
});
