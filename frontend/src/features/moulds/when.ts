import { duration } from "../../shared/format";

/** How long hands are busy; nobody plans them to the second. */
export function handsTime(seconds: number): string {
  return duration(Math.round(seconds / 60) * 60);
}
