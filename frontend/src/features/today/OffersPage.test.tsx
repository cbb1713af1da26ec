// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { day } from "../../shared/format";
import { Notices } from "../../shared/Notices";
import { Question } from "../../shared/Question";
import { aServer, inPage, leavePage, Refusal, withDialogs } from "../../testing/page";
import { OffersPage } from "./OffersPage";

vi.setConfig({ testTimeout: 60_000 });

beforeEach(withDialogs);
afterEach(leavePage);

const SOON = "2026-06-18T18:00:00Z";

function aWay(more: object = {}) {
  return {
    second_mould: false,
    ends: SOON,
    in_time: 12,
    hands_s: 9 * 3600 + 20,
    evenings: 0,
    lines: [
      { text: "Resin", amount: "140.00" },
      { text: "Work", amount: "300.00" },
    ],
    price: "572.00",
    each: "47.67",
    ...more,
  };
}

interface Answered {
  ways?: object[];
  taken_at?: string | null;
  buy?: object[];
  from_stock?: number;
}

function anOffer({ ways = [aWay()], taken_at = null, ...answer }: Answered = {}) {
  return {
    id: "o",
    title: "Chorus",
    sheet_name: "Marsh bird",
    taken_at,
    asked: { casts: 12, due: "2026-06-20T18:00:00Z", delivery_days: 3 },
    answer: { at: "2026-06-01T12:00:00Z", ways, untried: "", buy: [], from_stock: 12, ...answer },
  };
}

async function offers(made: object[], answer: () => unknown = () => ({})) {
  const heard = aServer(({ method, path }) => {
    if (method !== "GET") return answer();
    if (path === "/days/offers") return { offers: made };
    if (path === "/workshop") return { currency: "EUR" };
    if (path.startsWith("/sheets")) return { sheets: [], total: 0 };
    return { moulds: [], total: 0 };
  });
  inPage(
    <>
      <OffersPage />
      <Question />
      <Notices />
    </>,
  );
  await screen.findByRole("form", { name: "New offer" });
  const sent = () => heard.filter((one) => one.method !== "GET");
  return { sent };
}

const card = () => screen.findByRole("article");

describe("an offer", () => {
  it("says yes and by when, what it costs, and each", async () => {
    await offers([anOffer()]);
    const text = (await card()).textContent ?? "";
    expect(text).toContain(`Yes, by ${day(SOON)}`);
    const rows = [...document.querySelectorAll(".price tr")].map((one) => one.textContent);
    await waitFor(() => expect(document.querySelector(".price")?.textContent).toContain("572"));
    expect(rows.map((one) => one?.replace(/[^A-Za-z].*$/, ""))).toEqual([
      "Resin",
      "Work",
      "Price",
      "Each",
    ]);
    expect(text).not.toContain("given up");
    expect(text).not.toContain("from the shelf;");
  });

  it("says how many are in time where not all are, and what evenings it takes", async () => {
    await offers([anOffer({ ways: [aWay({ in_time: 7, evenings: 2 })] })]);
    const text = (await card()).textContent ?? "";
    expect(text).toContain(`7 in time; all by ${day(SOON)}`);
    expect(text).toContain("2\u00a0evenings given up");
    expect(document.querySelector(".offer-verdict")?.className).toContain("due");
  });

  it("that cannot be kept is not put into the days", async () => {
    await offers([anOffer({ ways: [aWay({ ends: null, in_time: 0 })] })]);
    expect((await card()).textContent).toContain("Not within four weeks.");
    expect(screen.queryByRole("button", { name: "Put it into the days" })).toBeNull();
  });

  it("is put into the days as one of its ways, once", async () => {
    const ways = [aWay({ in_time: 7 }), aWay({ second_mould: true })];
    const { sent } = await offers([anOffer({ ways })]);
    await card();
    const other = screen.getByRole("region", { name: "With another mould" });
    fireEvent.click(within(other).getByRole("button", { name: "Put it into the days" }));
    await waitFor(() => expect(sent()[0]?.path).toBe("/days/offers/o/taken"));
    expect(sent()[0]?.body).toMatchObject({ second_mould: true });
    leavePage();
    await offers([anOffer({ ways, taken_at: SOON })]);
    expect((await card()).textContent).toContain(`in the days since ${day(SOON)}`);
    expect(screen.queryByRole("button", { name: "Put it into the days" })).toBeNull();
  });

  it.each([
    [0, "No cast can be poured from the shelf"],
    [5, "5 can be poured from the shelf"],
  ])(
    "with resin for %i casts says what is bought and that the others wait",
    async (some, words) => {
      const buy = [{ name: "Fast", need_kg: 2.4, there_kg: 0.3, kits: ["2 of 1 kg"] }];
      await offers([anOffer({ buy, from_stock: some })]);
      const text = (await card()).textContent ?? "";
      expect(text).toContain(`${words}; the others wait 3 days`);
      expect(text).toContain(
        "Fast: 2,400.0\u00a0g needed, 300.0\u00a0g of it on the shelf; buy 2 of 1 kg",
      );
    },
  );

  it("is deleted once that was asked; a refusal is said", async () => {
    const { sent } = await offers([anOffer()], () => new Refusal(403, "Ask a maker."));
    await card();
    fireEvent.click(screen.getByRole("button", { name: "Delete Chorus" }));
    expect(sent()).toEqual([]);
    fireEvent.click(await screen.findByRole("button", { name: "Delete", hidden: true }));
    await screen.findByText("Ask a maker.");
    expect(sent()[0]).toMatchObject({ method: "DELETE", path: "/days/offers/o" });
  });

  it("is asked for only when all that is needed is said", async () => {
    const { sent } = await offers([]);
    await screen.findByText(/Somebody asks for twelve by the 20th/);
    const ok = screen.getByRole<HTMLButtonElement>("button", { name: "Get the answer" });
    fireEvent.change(screen.getByLabelText("For whom, or what"), { target: { value: "Chorus" } });
    fireEvent.change(screen.getByLabelText("By the evening of"), {
      target: { value: "2026-06-20" },
    });
    // No cast sheet is chosen yet.
    expect(ok.disabled).toBe(true);
    fireEvent.submit(screen.getByRole("form", { name: "New offer" }));
    expect(sent()).toEqual([]);
  });
});
