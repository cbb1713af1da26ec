import { describe, expect, it } from "vitest";

import type { DayBoard } from "../../api/client";
import { marksOf, rowsOf, shareOf, viewOf } from "./boardTime";

const at = (hour: number, day = 2) => new Date(2026, 2, day, hour).toISOString();
const stretch = (from: number, to: number) => ({ starts: at(from), ends: at(to) });

function board(open: readonly { starts: string; ends: string }[]): DayBoard {
  const lane = { kind: "person", name: "Ada", count: 1, blocks: [] };
  return {
    at: at(9),
    begins: at(8),
    ends: at(18),
    tasks: [],
    lanes: [{ ...lane, open: open.map((one) => ({ task: "", title: "", ...one })) }],
  };
}

describe("the view of a day", () => {
  it("shows the working hours and a little round them", () => {
    const view = viewOf(board([stretch(8, 18)]), new Date(2026, 2, 2, 15), "day");
    expect(new Date(view.from).getHours()).toBe(7);
    expect(new Date(view.to).getHours()).toBe(19);
    expect(shareOf(view, Date.parse(at(13)))).toBe(0.5);
    expect(marksOf(view).map((one) => one.label)[1]).toBe("08:00");
  });

  it("leaves every hour that is written room up to the end, however long the day", () => {
    for (let to = 9; to <= 23; to += 1) {
      const view = viewOf(board([stretch(3, to)]), new Date(2026, 2, 2, 15), "day");
      const marks = marksOf(view);
      const step = (marks[1]?.at ?? 0) - (marks[0]?.at ?? 0);
      expect((marks.at(-1)?.at ?? 0) + step).toBeLessThanOrEqual(view.to);
    }
  });

  it("shows a usual day where nobody works", () => {
    const view = viewOf(board([stretch(8, 18)]), new Date(2026, 2, 3), "day");
    expect((view.to - view.from) / 3_600_000).toBe(12);
  });

  it("shows seven days, also where one of them has 23 or 25 hours", () => {
    const view = viewOf(board([]), new Date(2026, 2, 27), "week");
    expect(marksOf(view)).toHaveLength(7);
    expect(marksOf(view).every((one) => new Date(one.at).getHours() === 0)).toBe(true);
    expect(new Date(view.to).getHours()).toBe(0);
  });
});

describe("stretches at once", () => {
  it("stand under each other, and use a row again as soon as it is free", () => {
    const told = rowsOf([stretch(8, 12), stretch(9, 10), stretch(10, 11), stretch(12, 13)]);
    expect(told).toEqual({ rows: [0, 1, 1, 0], count: 2 });
  });
  it("one after the other need one row", () => {
    expect(rowsOf([stretch(8, 9), stretch(9, 10)]).count).toBe(1);
    expect(rowsOf([]).count).toBe(1);
  });
});
