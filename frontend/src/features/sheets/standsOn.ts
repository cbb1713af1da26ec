import type { Plan } from "../../api/client";

/** What a plan stands on, as one says it of what follows from it. */
export const STANDS_ON: Record<Plan["stands_on"], string> = {
  even: "Planned for an even wall.",
  estimate: "Planned by an estimate of the wall; open the sheet to have it simulated.",
  "first-look": "Planned by a first look at the wall.",
  settled: "Planned by the simulated wall of these coats.",
};
