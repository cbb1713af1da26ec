/**
 * A moment to count from, on both clocks of a page: one can be set by somebody, the other may stand
 * while a tablet sleeps.
 */
export interface Moment {
  wallMs: number;
  pageMs: number;
}

/** What a clock loses or gains by itself between two looks is less. */
const SET_MS = 1_000;

export const thisMoment = (): Moment => ({ wallMs: Date.now(), pageMs: performance.now() });

/** How long ago a moment is, by the clock that says it is longer. */
export const elapsedMs = ({ wallMs, pageMs }: Moment) =>
  Math.max(Date.now() - wallMs, performance.now() - pageMs);

/** Whether the clock was set since a moment, or the machine slept. */
export const wasSet = ({ wallMs, pageMs }: Moment) =>
  Math.abs(Date.now() - wallMs - (performance.now() - pageMs)) > SET_MS;
