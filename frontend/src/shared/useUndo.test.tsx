// @vitest-environment jsdom
import { QueryClient } from "@tanstack/react-query";
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { aServer, inPage, leavePage, Refusal } from "../testing/page";
import { refreshWithout } from "./deleted";
import { Notices } from "./Notices";
import { useUndo } from "./useUndo";

vi.setConfig({ testTimeout: 60_000 });
afterEach(leavePage);

function Deleting({ undo }: { undo: string | null }) {
  const tell = useUndo();
  return (
    <button type="button" onClick={() => tell("Beak mask", { undo })}>
      delete
    </button>
  );
}

describe("what was deleted", () => {
  it("is taken back by a press beside it, and all is looked up again", async () => {
    const heard = aServer(() => ({}));
    const { queries } = inPage(
      <>
        <Deleting undo="d1" />
        <Notices />
      </>,
    );
    const again = vi.spyOn(queries, "invalidateQueries");
    fireEvent.click(screen.getByText("delete"));
    expect(document.body.textContent).toContain("“Beak mask” is deleted.");
    fireEvent.click(await screen.findByText("Undo"));
    await screen.findByText("“Beak mask” is back.");
    expect(heard).toMatchObject([{ method: "POST", path: "/deleted/d1/restore" }]);
    expect(again).toHaveBeenCalledOnce();
    expect(screen.queryByText("Undo")).toBeNull();
  });

  it("says why it cannot be taken back", async () => {
    aServer(() => new Refusal(409, "Its name is taken by another now."));
    inPage(
      <>
        <Deleting undo="d2" />
        <Notices />
      </>,
    );
    fireEvent.click(screen.getByText("delete"));
    fireEvent.click(await screen.findByText("Undo"));
    await waitFor(() =>
      expect(document.body.textContent).toContain("Its name is taken by another now."),
    );
  });

  it("offers nothing where nothing can be taken back", () => {
    inPage(
      <>
        <Deleting undo={null} />
        <Notices />
      </>,
    );
    const before = document.body.textContent;
    fireEvent.click(screen.getByText("delete"));
    expect(document.body.textContent).toBe(before);
  });

  it("is not asked for again by its own page, but its list is", async () => {
    const queries = new QueryClient();
    for (const key of [
      ["pieces", "list"],
      ["pieces", "a"],
      ["pieces", "b"],
      ["moulds", "a"],
    ])
      queries.setQueryData(key, {});
    await refreshWithout(queries, "pieces", "a");
    const isStale = (...key: string[]) => queries.getQueryState(key)?.isInvalidated;
    expect([
      isStale("pieces", "list"),
      isStale("pieces", "a"),
      isStale("pieces", "b"),
      isStale("moulds", "a"),
    ]).toEqual([true, false, true, false]);
  });
});
