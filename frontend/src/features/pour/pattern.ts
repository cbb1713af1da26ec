import type { PouredCoat } from "../../api/client";

/** From when on a pattern is followed so many times as fast, and where it was then. */
export interface Pace {
  /** Since the coat was poured. [s] */
  rolledS: number;
  /** Into the pattern. [s] */
  patternS: number;
  pace: number;
}

/** How far into a pattern a coat is that has been rolled for so long. [s] */
export const followed = (from: Pace, rolledS: number) =>
  from.patternS + Math.max(rolledS - from.rolledS, 0) * from.pace;

/** Which move of a pattern is under way, and its tone; none while it is held still. */
export function cueAt(
  pattern: PouredCoat["pattern"],
  seconds: number,
): { step: number; tone: "tilt" | "turn" | null } | null {
  const last = pattern.at(-1);
  if (!last || last.t_s <= 0) return null;
  const rounds = Math.floor(Math.max(seconds, 0) / last.t_s);
  const within = Math.max(seconds, 0) - rounds * last.t_s;
  const after = Math.max(
    pattern.findIndex((one) => one.t_s > within),
    1,
  );
  const from = pattern[after - 1];
  const to = pattern[after];
  if (!from || !to) return null;
  const tilted = Math.abs(to.tilt_deg - from.tilt_deg);
  const turned = Math.abs(to.azimuth_deg - from.azimuth_deg);
  const tone = tilted === 0 && turned === 0 ? null : tilted > turned ? "tilt" : "turn";
  return { step: rounds * pattern.length + after, tone };
}

/** Where a pattern is after so long; after its end it begins again, and the turning goes on. */
export function heldAt(
  pattern: PouredCoat["pattern"],
  seconds: number,
): { tilt: number; azimuth: number } | null {
  const first = pattern[0];
  const last = pattern.at(-1);
  if (!first || !last || last.t_s <= 0) return null;
  const rounds = Math.floor(Math.max(seconds, 0) / last.t_s);
  const within = Math.max(seconds, 0) - rounds * last.t_s;
  const after = pattern.findIndex((one) => one.t_s > within);
  const to = pattern[after] ?? last;
  const from = pattern[after - 1] ?? first;
  const share = to.t_s > from.t_s ? (within - from.t_s) / (to.t_s - from.t_s) : 0;
  const between = (one: number, other: number) => one + share * (other - one);
  return {
    tilt: between(from.tilt_deg, to.tilt_deg),
    azimuth:
      between(from.azimuth_deg, to.azimuth_deg) + rounds * (last.azimuth_deg - first.azimuth_deg),
  };
}
