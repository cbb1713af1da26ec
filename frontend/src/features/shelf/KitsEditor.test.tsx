// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Kit } from "../../api/client";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { KitsEditor } from "./KitsEditor";

vi.setConfig({ testTimeout: 60_000 });
afterEach(leavePage);

const small: Kit = { name: "Small pair", mass_kg: 0.9, price: "24.50", shelf_life_days: 180 };
const large: Kit = { name: "Pails", mass_kg: 7.2, price: "139.00", shelf_life_days: 360 };

async function aShelf(refuses = "") {
  let kits = [small, large];
  const heard = aServer(({ method, path, body }) => {
    if (path === "/workshop") return { currency: "EUR" };
    if (method !== "PUT") return { kits };
    if (refuses) return new Refusal(422, refuses);
    ({ kits } = body as { kits: Kit[] });
    return { kits };
  });
  inPage(<KitsEditor materialId="r" />);
  await screen.findByLabelText("name of kit 2");
  const type = (label: string, value: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value } });
  const save = () => fireEvent.click(screen.getByText("Save these kits"));
  const sent = () =>
    heard.filter((one) => one.method === "PUT").map((one) => (one.body as { kits: Kit[] }).kits);
  return { type, save, sent };
}

describe("the kits on offer", () => {
  it("say in which currency, and send a weight and a price with a comma as with a point", async () => {
    const { type, save, sent } = await aShelf();
    await screen.findByText("Price, EUR");
    type("kilograms of kit 1", "1,2");
    type("price of kit 1", " 31,90 ");
    save();
    await waitFor(() => expect(sent().length).toBe(1));
    expect(sent()).toEqual([[{ ...small, mass_kg: 1.2, price: "31.90" }, large]]);
  });

  it("are not sent while a weight or days are no number, and the row is named", async () => {
    const { type, save, sent } = await aShelf();
    type("kilograms of kit 2", "a pail");
    expect(document.body.textContent).toContain("Kit 2 has a weight or days that are no number.");
    save();
    type("kilograms of kit 2", "7.2");
    type("days of kit 1", "180.5");
    expect(document.body.textContent).toContain("Kit 1 has a weight or days that are no number.");
    save();
    expect(sent()).toEqual([]);
  });

  it("are added to and removed", async () => {
    const { type, save, sent } = await aShelf();
    fireEvent.click(screen.getByLabelText("Remove kit 1"));
    fireEvent.click(screen.getByText("Add a kit"));
    type("name of kit 2", "Drum");
    type("kilograms of kit 2", "18");
    type("price of kit 2", "300");
    save();
    await waitFor(() => expect(sent().length).toBe(1));
    expect(sent()[0]).toEqual([
      large,
      { name: "Drum", mass_kg: 18, price: "300", shelf_life_days: 360 },
    ]);
  });

  it("say what the server refuses, and keep what was typed", async () => {
    const { type, save } = await aShelf("The price of 'Small pair' is not an amount of money.");
    type("price of kit 1", "cheap");
    save();
    await screen.findByText(/is not an amount of money/);
    expect(screen.getByLabelText<HTMLInputElement>("price of kit 1").value).toBe("cheap");
  });
});
