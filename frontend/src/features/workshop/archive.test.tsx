// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { Notices } from "../../shared/Notices";
import { aServer, inPage, leavePage, Refusal, withDialogs } from "../../testing/page";
import { ArchivePanel } from "./ArchivePanel";
import { DeletedPanel } from "./DeletedPanel";

vi.setConfig({ testTimeout: 60_000 });

beforeEach(withDialogs);
afterEach(leavePage);

interface Brings {
  of?: string;
  replaces?: boolean;
  tables: { table: string; rows: number; new: number }[];
}

const calm = { backed_up_at: "2026-06-01T03:00:00Z", backup_said: "", is_backup_overdue: false };

async function anArchive(brings: Brings | Refusal, workshop: object = calm) {
  const heard = aServer(({ path }) => {
    if (path === "/workshop") return workshop;
    if (path !== "/archive/tries" || brings instanceof Refusal) return brings;
    const made = {
      of: "",
      replaces: false,
      workshop: "The Salt Lantern",
      made_at: calm.backed_up_at,
    };
    return { ...made, ...brings };
  });
  inPage(
    <>
      <ArchivePanel />
      <Notices />
    </>,
  );
  await screen.findByText(/backup/i, { selector: "p.faint, p.due" });
  const input = document.querySelector<HTMLInputElement>("input[type=file]");
  if (!input) throw new Error("no field for a file");
  fireEvent.change(input, { target: { files: [new File(["PK"], "shop.zip")] } });
  const sent = () => heard.filter((one) => one.path === "/archive").length;
  return { sent };
}

const said = () => document.querySelector("dialog")?.textContent ?? "";

describe("an archive that is imported", () => {
  it("says what it brings and what is here already, before it is done", async () => {
    const { sent } = await anArchive({
      tables: [
        { table: "cast_sheet", rows: 4, new: 4 },
        { table: "piece", rows: 3, new: 1 },
        { table: "material", rows: 9, new: 0 },
        { table: "pour_coat", rows: 90, new: 90 },
        { table: "mould", rows: 0, new: 0 },
      ],
    });
    await waitFor(() => expect(said()).toContain("What is missing here is added."));
    const listed = [...document.querySelectorAll("dialog li")].map((one) => one.textContent);
    // In a maker's order; what hangs on it comes along and is not counted.
    expect(listed).toEqual([
      "3\u00a0pieces, 2 of them here already",
      "4\u00a0cast sheets",
      "9\u00a0materials, here already",
    ]);
    expect(sent()).toBe(0);
    fireEvent.click(screen.getByText("Import"));
    await screen.findByText("The archive is imported.");
    expect(sent()).toBe(1);
  });

  it("is not done where nothing is new", async () => {
    const { sent } = await anArchive({ tables: [{ table: "piece", rows: 3, new: 0 }] });
    await waitFor(() => expect(said()).toContain("Everything in it is here already."));
    expect(screen.queryByText("Import")).toBeNull();
    fireEvent.click(screen.getByText("Close", { selector: ".actions *" }));
    await waitFor(() => expect(document.querySelector("dialog li")).toBeNull());
    expect(sent()).toBe(0);
  });

  it("says that an empty workshop becomes the one in it, and of what it is", async () => {
    await anArchive({ replaces: true, of: "mould", tables: [{ table: "mould", rows: 1, new: 1 }] });
    await waitFor(() => expect(said()).toContain("This workshop is empty"));
    expect(said()).toContain("The mould, exported from “The Salt Lantern” on");
    expect(said()).toContain("1\u00a0mould");
  });

  it("is refused in a sentence, and nothing opens", async () => {
    await anArchive(new Refusal(422, "The archive ends in the middle of a file."));
    await screen.findByText("The archive ends in the middle of a file.");
    expect(document.querySelector("dialog li")).toBeNull();
  });
});

describe("the last backup", () => {
  it.each([
    [calm, "faint", /^Last backup: /],
    [{ ...calm, is_backup_overdue: true }, "due", /^Last backup: /],
    [{ ...calm, backed_up_at: null }, "faint", /^No backup yet\. Set MILDHUSK_BACKUP to a folder/],
  ])("of %j is told", async (workshop, style, words) => {
    await anArchive({ tables: [] }, workshop);
    const told = [...document.querySelectorAll(`section > p.${style}`)].at(-1);
    expect(told?.textContent).toMatch(words);
  });

  it("says why it failed", async () => {
    await anArchive({ tables: [] }, { ...calm, backup_said: "The disk is full." });
    expect(document.body.textContent).toContain(
      "The last try to back up failed: The disk is full.",
    );
  });
});

describe("what was deleted", () => {
  it("comes back by a press, after which all is looked up again", async () => {
    let deleted = [
      { id: "a", name: "Beak", what: "piece", deleted_at: "2026-06-01T09:00:00Z" },
      { id: "b", name: "Fast pair", what: "lot", deleted_at: "2026-06-01T08:00:00Z" },
    ];
    const heard = aServer(({ method, path }) => {
      if (method === "POST") deleted = deleted.filter((one) => !path.includes(one.id));
      return { deleted };
    });
    inPage(<DeletedPanel />);
    fireEvent.click(await screen.findByLabelText("Restore Beak"));
    await waitFor(() => expect(screen.queryByText("Beak")).toBeNull());
    expect(heard.some((one) => one.path === "/deleted/a/restore")).toBe(true);
    expect(screen.getByText("Fast pair").closest("li")?.textContent).toContain("lot");
  });

  it("is not spoken of where there is nothing", async () => {
    const heard = aServer(() => ({ deleted: [] }));
    inPage(<DeletedPanel />);
    await waitFor(() => expect(heard.length).toBe(1));
    expect(screen.queryByRole("heading")).toBeNull();
  });
});
