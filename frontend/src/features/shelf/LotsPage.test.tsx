// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { day } from "../../shared/format";
import { Notices } from "../../shared/Notices";
import { aServer, inPage, leavePage, Refusal, withDialogs } from "../../testing/page";
import { LotsPage } from "./LotsPage";

vi.setConfig({ testTimeout: 60_000 });

/** The simulated browser measures nothing. */
class NoSizes {
  observe() {
    return undefined;
  }
  unobserve() {
    return undefined;
  }
  disconnect() {
    return undefined;
  }
}

beforeEach(() => {
  withDialogs();
  vi.stubGlobal("ResizeObserver", NoSizes);
});
afterEach(leavePage);

const LOT = {
  id: "l",
  label: "Shelf 2",
  material_name: "Fast rigid",
  left_kg: 0.4512,
  bought_kg: 1.9,
  price: "39.50",
  opened_on: "2026-05-02",
  expires_on: "2026-11-20",
  past: false,
};

async function shelf(lots: object[], answer: (path: string) => unknown = () => ({})) {
  const heard = aServer(({ method, path }) => {
    if (method !== "GET") return answer(path);
    if (path === "/lots") return { lots };
    if (path === "/workshop") return { currency: "EUR" };
    if (path.startsWith("/materials"))
      return { materials: [{ id: "m", name: "Fast rigid" }], total: 1 };
    return { supplies: [], total: 0 };
  });
  inPage(
    <>
      <LotsPage />
      <Notices />
    </>,
  );
  const sent = () => heard.filter((one) => one.method !== "GET");
  return { sent };
}

const cells = () => [...document.querySelectorAll("tbody td")].map((one) => one.textContent);

describe("lots", () => {
  it("tell what is left of what was bought, and until when it is good", async () => {
    await shelf([LOT]);
    await screen.findByRole("table", { name: "Lots" });
    expect(cells().slice(0, 7)).toEqual([
      "Shelf 2",
      "Fast rigid",
      "451.2\u00a0g",
      "1,900.0\u00a0g",
      "39.50",
      day("2026-05-02"),
      day("2026-11-20"),
    ]);
    // On a narrow screen each cell carries its heading.
    expect(document.querySelector("td")?.dataset["label"]).toBe("Lot");
  });

  it("say what nobody said, and what is past", async () => {
    await shelf([{ ...LOT, price: null, opened_on: null, past: true }]);
    await screen.findByRole("table", { name: "Lots" });
    expect(cells()[4]).toBe("not said");
    expect(cells()[5]).toBe("not yet");
    expect(cells()[6]).toMatch(/, past$/);
    expect(document.querySelector("td .wrong")).not.toBeNull();
  });

  it("that are none say how one comes there", async () => {
    await shelf([]);
    await screen.findByText(/No lot yet/);
  });

  it("are removed and brought back", async () => {
    const { sent } = await shelf([LOT], (path) =>
      path === "/lots/l" ? { deleted: true, undo: "u" } : { what: "lot", name: "Shelf 2" },
    );
    fireEvent.click(await screen.findByRole("button", { name: "Remove Shelf 2" }));
    fireEvent.click(await screen.findByText("Undo"));
    await screen.findByText("“Shelf 2” is back.");
    const told = sent().map((one) => `${one.method} ${one.path}`);
    expect(told).toEqual(["DELETE /lots/l", "POST /deleted/u/restore"]);
  });

  it("that a pour draws from stay, and it is said why", async () => {
    await shelf([LOT], () => new Refusal(409, "A pour draws from it."));
    fireEvent.click(await screen.findByRole("button", { name: "Remove Shelf 2" }));
    await screen.findByText("A pour draws from it.");
  });
});

describe("a new lot", () => {
  async function aForm(answer: () => unknown = () => LOT) {
    const { sent } = await shelf([], answer);
    fireEvent.click(await screen.findByRole("button", { name: "Add a lot" }));
    const put = screen.getByRole<HTMLButtonElement>("button", {
      name: "Put it on the shelf",
      hidden: true,
    });
    return { sent, put };
  }

  async function chooses(name: string) {
    const field = screen.getByLabelText("Material");
    fireEvent.mouseDown(field);
    fireEvent.click(await screen.findByText(name, { selector: ".ant-select-item-option-content" }));
  }

  const type = (label: RegExp, value: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value } });

  it("needs a material, and takes a price with a comma", async () => {
    const { sent, put } = await aForm();
    expect(put.disabled).toBe(true);
    await chooses("Fast rigid");
    type(/^Label/, "New pair");
    type(/A and B together/, "1900");
    type(/^Good until/, "2027-01-31");
    type(/What it cost/, "42,50");
    expect(put.disabled).toBe(false);
    fireEvent.click(put);
    await waitFor(() => expect(document.querySelector("dialog")).toBeNull());
    expect(sent()[0]?.body).toEqual({
      material_id: "m",
      label: "New pair",
      bought_kg: 1.9,
      opened_on: null,
      expires_on: "2027-01-31",
      price: "42.50",
    });
  });

  it("whose weight cannot be read is not sent", async () => {
    const { put } = await aForm();
    await chooses("Fast rigid");
    type(/A and B together/, "two");
    expect(put.disabled).toBe(true);
  });

  it("that is refused stays open, with the sentence", async () => {
    const refusal = new Refusal(422, "It is past before it was opened.", "expires_on");
    const { put } = await aForm(() => refusal);
    await chooses("Fast rigid");
    fireEvent.click(put);
    await screen.findByText("It is past before it was opened.");
    expect(document.querySelector("dialog")).not.toBeNull();
  });
});
