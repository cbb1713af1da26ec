import type { Plan } from "../../api/client";

/** What a plan stands on, as one says it of what follows from it. */
export const STANDS_ON: Record<Plan["stands_on"], string> = {
  even: "For an even wall: it is not said how the mould is turned.",
  estimate: "By an estimate of the wall; open the sheet to have it simulated.",
  "first-look": "By a first look at the wall.",
  settled: "By the simulated wall of just these coats.",
};
