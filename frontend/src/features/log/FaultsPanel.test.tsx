// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Pour, PourFault } from "../../api/client";
import { aServer, inPage, leavePage } from "../../testing/page";
import { FaultsPanel } from "./FaultsPanel";

vi.setConfig({ testTimeout: 60_000 });
afterEach(leavePage);

const cause = (id: string, share: number, mend: string | null = null) => ({
  id,
  title: `cause ${id}`,
  share,
  evidence: share > 0.4 ? ["the second coat went on late"] : [],
  advice: `mind ${id}`,
  mend,
});
const fault: PourFault = {
  id: "f",
  kind: "thin",
  place: "brow",
  told: { warm: true },
  verdict: "",
  causes: [
    cause("late", 0.62, "one coat more"),
    cause("cold", 0.2),
    cause("old", 0.1),
    cause("tilt", 0.05),
    cause("lid", 0.03),
  ],
} as PourFault;
const kinds = [
  {
    id: "thin",
    title: "A thin place",
    asks: [
      { id: "warm", title: "The cup got warm." },
      { id: "still", title: "It was held still." },
    ],
  },
  { id: "bubbles", title: "Bubbles", asks: [] },
];

function aLog() {
  let faults = [fault];
  const heard = aServer(({ method, path, body }) => {
    if (path === "/fault-kinds") return { kinds };
    if (path === "/pours/p/readings") return { readings: [], pictures: [] };
    if (path === "/faults/f/mend") return { id: "s9" };
    if (method === "PUT") faults = [{ ...fault, ...(body as Partial<PourFault>) }];
    if (method === "DELETE") {
      faults = [];
      return { undo: null };
    }
    return { faults };
  });
  inPage(<FaultsPanel pour={{ id: "p" } as Pour} />);
  const sent = (method: string) => heard.filter((one) => one.method === method);
  return { sent };
}

describe("what is wrong with a cast", () => {
  it("has its three likeliest causes whole and the others by name", async () => {
    aLog();
    const card = await screen.findByLabelText("A thin place");
    const causes = within(screen.getByLabelText("Likely causes")).getAllByRole("listitem");
    expect(causes.length).toBe(3);
    expect(causes[0]?.textContent).toContain("62\u00a0%");
    expect(causes[0]?.textContent).toContain("Because the second coat went on late.");
    expect(causes[1]?.textContent).not.toContain("Because");
    expect(card.textContent).toContain("Less likely: cause tilt (5\u00a0%); cause lid (3\u00a0%)");
    expect(card.querySelector("h3")?.textContent).toBe("A thin place, brow");
  });

  it("takes a verdict, keeps what was told beside it, and takes it back", async () => {
    const { sent } = aLog();
    const [first] = await screen.findAllByText("This was it");
    if (!first) throw new Error("no verdict to give");
    fireEvent.click(first);
    await screen.findByText("Your verdict");
    expect(sent("PUT")).toMatchObject([
      { path: "/faults/f", body: { place: "brow", told: { warm: true }, verdict: "late" } },
    ]);
    fireEvent.click(screen.getByText("It was not"));
    await waitFor(() => expect(screen.queryByText("Your verdict")).toBeNull());
    expect(sent("PUT")[1]).toMatchObject({ body: { verdict: "" } });
  });

  it("forgets what is not known any more, and adds what is", async () => {
    const { sent } = aLog();
    const still = await screen.findByLabelText("It was held still.");
    fireEvent.click(within(still).getByText("no"));
    await waitFor(() => expect(sent("PUT").length).toBe(1));
    expect(sent("PUT")[0]).toMatchObject({ body: { told: { warm: true, still: false } } });
    const warm = await screen.findByLabelText("The cup got warm.");
    fireEvent.click(within(warm).getByText("?"));
    await waitFor(() => expect(sent("PUT").length).toBe(2));
    expect(sent("PUT")[1]).toMatchObject({ body: { told: { still: false } } });
    expect((sent("PUT")[1]?.body as PourFault).told).not.toHaveProperty("warm");
  });

  it("changes the sheet by a press, and leads there", async () => {
    const { sent } = aLog();
    fireEvent.click(await screen.findByText("Change the sheet: one coat more"));
    const link = await screen.findByText("The sheet is changed: look at it");
    expect(link.getAttribute("href")).toBe("/sheets/s9");
    expect(sent("POST")).toMatchObject([{ path: "/faults/f/mend", body: { cause: "late" } }]);
    // Only what the sheet can mend is offered.
    expect(screen.queryAllByText(/^Change the sheet/)).toEqual([]);
  });

  it("adds nothing before a kind is chosen, and takes one off", async () => {
    const { sent } = aLog();
    const add = (await screen.findByText("Add this fault")).closest("button");
    expect(add?.disabled).toBe(true);
    fireEvent.click(await screen.findByLabelText("Remove A thin place"));
    await waitFor(() => expect(screen.queryByLabelText("A thin place")).toBeNull());
    expect(sent("DELETE")).toMatchObject([{ path: "/faults/f" }]);
    expect(sent("POST")).toEqual([]);
  });
});
