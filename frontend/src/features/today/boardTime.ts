import type { DayBoard } from "../../api/client";
import { clockTime } from "../../shared/format";

export type Span = "day" | "week";

/** What stretch of time is on the screen, as local days have it. [ms] */
export interface View {
  from: number;
  to: number;
  span: Span;
}

const HOUR_MS = 3_600_000;

function midnight(at: Date): Date {
  const day = new Date(at);
  day.setHours(0, 0, 0, 0);
  return day;
}

/** The day from an hour before its first work to an hour after its last; or seven whole days. */
export function viewOf(board: DayBoard, at: Date, span: Span): View {
  const day = midnight(at);
  const next = new Date(day);
  next.setDate(next.getDate() + (span === "day" ? 1 : 7));
  const from = day.getTime();
  const to = next.getTime();
  if (span === "week") return { from, to, span };
  const times = [
    ...board.lanes.flatMap((lane) => lane.open),
    ...board.tasks.filter((task) => task.hands > 0),
  ]
    .flatMap((one) => [Date.parse(one.starts), Date.parse(one.ends)])
    .filter((time) => time > from && time < to);
  if (times.length === 0) return { from: from + 7 * HOUR_MS, to: from + 19 * HOUR_MS, span };
  return {
    from: Math.max(from, wholeHour(Math.min(...times), -1)),
    to: Math.min(to, wholeHour(Math.max(...times), 1)),
    span,
  };
}

/** The whole hour at least half an hour before or after a time. */
function wholeHour(time: number, side: 1 | -1): number {
  const hours = time / HOUR_MS + side * 0.5;
  return (side > 0 ? Math.ceil(hours) : Math.floor(hours)) * HOUR_MS;
}

/** Where a time stands in the view, from 0 to 1 and beyond. */
export function shareOf(view: View, time: number): number {
  return (time - view.from) / (view.to - view.from);
}

/** Where the hours, or the days, are written above the lanes. */
export function marksOf(view: View): { at: number; label: string }[] {
  const marks: { at: number; label: string }[] = [];
  if (view.span === "day") {
    const every = view.to - view.from > 14 * HOUR_MS ? 2 : 1;
    // What is written at the very end would stand out over the page.
    for (let at = view.from; at + every * HOUR_MS <= view.to; at += every * HOUR_MS)
      marks.push({ at, label: clockTime(new Date(at).toISOString()) });
    return marks;
  }
  for (let day = 0; day < 7; day += 1) {
    const at = new Date(view.from);
    at.setDate(at.getDate() + day);
    const label = at.toLocaleDateString(undefined, { weekday: "short", day: "numeric" });
    marks.push({ at: at.getTime(), label });
  }
  return marks;
}

export function hoursOfView(view: View): string {
  if (view.span === "week") return "";
  const [from, to] = [view.from, view.to].map((at) => clockTime(new Date(at).toISOString()));
  return `${from ?? ""} to ${to ?? ""}`;
}

/** Puts stretches that overlap under each other; returns the row of each, and how many there are. */
export function rowsOf(blocks: readonly { starts: string; ends: string }[]): {
  rows: number[];
  count: number;
} {
  const free: number[] = [];
  const rows = blocks.map((block) => {
    const starts = Date.parse(block.starts);
    const row = free.findIndex((until) => until <= starts);
    const at = row < 0 ? free.length : row;
    free[at] = Date.parse(block.ends);
    return at;
  });
  return { rows, count: Math.max(1, free.length) };
}
