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

/** What is known, unless it was measured more surely, or a clock was set since. */
export function surer(known: Sample | undefined, measured: Sample): Sample {
  if (!known || measured.tripMs <= known.tripMs) return measured;
  // An answer that took long was made at any moment of that.
  const within = (measured.tripMs + known.tripMs) / 2 + DRIFT_MS;
  return Math.abs(measured.offsetMs - known.offsetMs) <= within ? known : measured;
}
