export function secondsOf(iso: string): number {
  return Date.parse(iso) / 1000;
}

/** How far the server's clock was found ahead, and how long asking took. */
export interface Sample {
  offsetMs: number;
  /** The shorter the way there and back, the surer. */
  tripMs: number;
}

/** Clocks drift by so much between two measurements, and no more. */
const DRIFT_MS = 250;

/** The surest of a few. */
export function surest(several: readonly Sample[]): Sample | undefined {
  return [...several].sort((one, other) => one.tripMs - other.tripMs)[0];
}

/** What was measured before, but for what a clock that was set since makes worthless. */
export const agreeing = (before: readonly Sample[], measured: Sample) =>
  before.filter((one) => agree(one, measured));

/** What is known, unless it was measured more surely, or a clock was set since. */
export function surer(known: Sample | undefined, measured: Sample): Sample {
  if (!known || measured.tripMs <= known.tripMs) return measured;
  return agree(known, measured) ? known : measured;
}

/** An answer that took long was made at any moment of that. */
const agree = (one: Sample, other: Sample) =>
  Math.abs(one.offsetMs - other.offsetMs) <= (one.tripMs + other.tripMs) / 2 + DRIFT_MS;
