// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";

import { inPage, leavePage } from "../../testing/page";
import { LastTries } from "./LastTries";
import { useTries, type Remembered } from "./queries";

const tried = (at: string, part: Partial<Remembered> = {}): Remembered => ({
  at,
  exercise: "rim-first",
  piece: "Beak mask",
  evenness: 0.4567,
  under: 0.1,
  spilt_kg: 0.0042,
  never_wet: 0,
  reached: false,
  ...part,
});

beforeEach(() => useTries.setState({ tries: [] }));
afterEach(leavePage);

it("shows nothing before the first try", () => {
  inPage(<LastTries exercises={[]} />);
  expect(screen.queryByRole("table")).toBeNull();
});

it("shows the newest first, by the names of the exercises", () => {
  const { remember } = useTries.getState();
  remember(tried("2026-06-01T10:00:00Z"));
  remember(tried("2026-06-01T10:05:00Z", { exercise: "no-spill", reached: true }));
  inPage(
    <LastTries
      exercises={[
        { key: "rim-first", name: "Rim first" },
        { key: "no-spill", name: "Not a drop" },
      ]}
    />,
  );
  const rows = screen.getAllByRole("row").slice(1);
  expect(rows.map((row) => row.querySelector("td")?.textContent)).toEqual([
    "Not a dropBeak mask",
    "Rim firstBeak mask",
  ]);
  expect(rows[0]?.textContent).toMatch(/yes$/);
  expect(rows[1]?.textContent).toMatch(/45\.7\u00a0%.*4\.2\u00a0g.*not yet$/);
});

it("remembers the last twenty, in this browser", () => {
  for (let at = 0; at < 25; at += 1)
    useTries.getState().remember(tried(`2026-06-01T10:${10 + at}:00Z`));
  const { tries } = useTries.getState();
  expect([tries.length, tries[0]?.at, tries[19]?.at]).toEqual([
    20,
    "2026-06-01T10:34:00Z",
    "2026-06-01T10:15:00Z",
  ]);
  expect(localStorage.getItem("husk-practice")).toContain("2026-06-01T10:34:00Z");
});
