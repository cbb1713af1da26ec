// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Pour } from "../../api/client";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { CastPanel } from "./CastPanel";

vi.setConfig({ testTimeout: 60_000 });

afterEach(leavePage);

const GLOVE = { id: "g", name: "Marsh bird glove" };

/** Of a pour the panel reads no more than this. */
function aPour(more: object): Pour {
  const told = { id: "p", piece_id: "mask", mould: null, cast: null, ...more };
  return told as unknown as Pour;
}

describe("what came of a pour", () => {
  const cast = { number: 3, state: "out", for_whom: "", place: "" };

  it("is saved only when something of it is another, and all of it together", async () => {
    const changed = { ...cast, for_whom: "the chorus", place: "top shelf" };
    const heard = aServer(() => aPour({ mould: GLOVE, cast: changed }));
    inPage(<CastPanel pour={aPour({ mould: GLOVE, cast })} />);
    expect(screen.getByRole("form", { name: "The cast" }).textContent).toContain("Cast 3");
    expect(screen.getByRole("link").getAttribute("href")).toBe("/moulds/g");
    const save = screen.getByRole<HTMLButtonElement>("button", { name: "Save" });
    expect(save.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("For"), { target: { value: "the chorus" } });
    fireEvent.change(screen.getByLabelText("Where it is"), { target: { value: "top shelf" } });
    expect(save.disabled).toBe(false);
    fireEvent.click(save);
    await waitFor(() => expect(heard).toHaveLength(1));
    expect(heard[0]).toMatchObject({ method: "PUT", path: "/pours/p/cast" });
    expect(heard[0]?.body).toEqual({ state: "out", for_whom: "the chorus", place: "top shelf" });
  });

  it("that is refused says why, and what was typed stays", async () => {
    aServer(() => new Refusal(403, "A guest may look, and change nothing."));
    inPage(<CastPanel pour={aPour({ mould: GLOVE, cast })} />);
    const place = screen.getByLabelText<HTMLInputElement>("Where it is");
    fireEvent.change(place, { target: { value: "top shelf" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await screen.findByText(/A guest may look/);
    expect(place.value).toBe("top shelf");
  });

  it("is nothing yet while it is in its mould", () => {
    aServer(() => ({}));
    inPage(<CastPanel pour={aPour({ mould: GLOVE })} />);
    expect(screen.getByRole("link").textContent).toBe("Marsh bird glove");
    expect(screen.queryByRole("form")).toBeNull();
  });

  it("asks which mould it was in, where one of this piece is there", async () => {
    const moulds = [
      { ...GLOVE, piece_id: "mask" },
      { id: "h", name: "Helmet jacket", piece_id: "helmet" },
    ];
    aServer(() => ({ moulds, total: 2 }));
    inPage(<CastPanel pour={aPour({})} />);
    await screen.findByLabelText("Which mould was it in?");
    leavePage();
    const heard = aServer(() => ({ moulds: moulds.slice(1), total: 1 }));
    inPage(<CastPanel pour={aPour({})} />);
    await waitFor(() => expect(heard).toHaveLength(1));
    expect(screen.queryByLabelText("Which mould was it in?")).toBeNull();
  });
});
