// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { ListTable } from "./ListTable";

afterEach(cleanup);

const COLUMNS = [
  { title: "Lot", render: (one: number) => `Lot ${one}` },
  { title: "Left", align: "right" as const, render: (one: number) => `${one} g` },
];
const upTo = (count: number) => Array.from({ length: count }, (_, at) => at + 1);
const table = (rows: number[]) => (
  <ListTable label="Lots" rows={rows} keyOf={(one) => one} columns={COLUMNS} />
);
const shown = () =>
  within(screen.getByRole("table", { name: "Lots" }))
    .getAllByRole("row")
    .slice(1)
    .map((row) => row.textContent);
const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));
const isOff = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name }).disabled;

it("shows each row under its headings, and says the heading again in each cell", () => {
  render(table([1, 2]));
  expect(screen.getAllByRole("columnheader").map((one) => one.textContent)).toEqual([
    "Lot",
    "Left",
  ]);
  expect(shown()).toEqual(["Lot 11 g", "Lot 22 g"]);
  expect(screen.getAllByRole("cell").map((one) => one.dataset["label"])).toEqual([
    "Lot",
    "Left",
    "Lot",
    "Left",
  ]);
  expect(screen.queryByRole("navigation")).toBeNull();
});

it("is turned where it has more than fifty rows, and shows each once", () => {
  render(table(upTo(120)));
  const seen = [...shown()];
  expect(seen).toHaveLength(50);
  expect([isOff("Previous"), isOff("Next")]).toEqual([true, false]);
  press("Next");
  seen.push(...shown());
  expect(screen.getByRole("status").textContent).toBe("51 to 100 of 120");
  press("Next");
  seen.push(...shown());
  expect([isOff("Previous"), isOff("Next")]).toEqual([false, true]);
  expect(seen).toEqual(upTo(120).map((one) => `Lot ${one}${one} g`));
});

it("goes back to a page that is there when a search leaves fewer rows", () => {
  const { rerender } = render(table(upTo(120)));
  press("Next");
  press("Next");
  rerender(table(upTo(60)));
  expect(shown()).toHaveLength(10);
  rerender(table([7]));
  expect(shown()).toEqual(["Lot 77 g"]);
});

it("asks the server for the next page of what stands there", () => {
  const turnTo = vi.fn();
  const pages = { number: 2, rows: 50, total: 130, turnTo };
  render(
    <ListTable label="Lots" rows={[51, 52]} keyOf={(one) => one} columns={COLUMNS} pages={pages} />,
  );
  expect(shown()).toHaveLength(2);
  press("Next");
  press("Previous");
  expect(turnTo.mock.calls).toEqual([[3], [1]]);
});
