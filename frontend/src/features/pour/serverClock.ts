import { useEffect, useState } from "react";
import { create } from "zustand";

import { client, unwrap } from "../../api/client";
import { elapsedMs, thisMoment, wasSet } from "../../shared/elapsed";
import { agreeing, surer, surest, type Sample } from "./clock";
import { keepNumber, keptNumber } from "./kept";

const OFFSET = "how far the server's clock is ahead [ms]";
const TRIP = "how long that took to ask [ms]";
const PATIENCE_MS = 4_000;
const EVERY_MS = 20_000;
const REMEMBERED = 8;
/** So often at first, and again and again until an answer was so quick. */
const LEAST_TRIES = 3;
const MOST_TRIES = 12;
const GOOD_TRIP_MS = 100;
const AGAIN_MS = 250;

/** How far the server's clock is ahead of this machine's; as it was last, until it is measured. */
const useOffset = create<{ ms: number }>(() => ({ ms: 0 }));
let samples: readonly Sample[] = [];

export const offsetMs = () => useOffset.getState().ms;

/** As it was last measured, also before the page was loaded anew. */
let known: Sample | undefined;
const isLoaded = Promise.all([keptNumber(OFFSET), keptNumber(TRIP)]).then(([ms, tripMs]) => {
  if (ms === undefined) return;
  known = { offsetMs: ms, tripMs: tripMs ?? GOOD_TRIP_MS };
  if (samples.length === 0) useOffset.setState({ ms });
});

let looked = thisMoment();

/** Whether the tablet's clock was set since this was last asked: then nothing is measured any more. */
function isSet(): boolean {
  const was = wasSet(looked);
  looked = thisMoment();
  if (was) {
    samples = [];
    known = undefined;
  }
  return was;
}

/** Whether it was measured by the clock as it is now. */
export const isMeasured = () => !isSet() && samples.length > 0;

/** Measures it once: the answer was made half way between asking and hearing it. */
async function measure() {
  const asked = thisMoment();
  try {
    const signal = AbortSignal.timeout(PATIENCE_MS);
    const { now } = await unwrap(client.GET("/api/v1/now", { signal }));
    if (wasSet(asked)) return;
    const tripMs = elapsedMs(asked);
    const sample = { offsetMs: Date.parse(now) - (asked.wallMs + tripMs / 2), tripMs };
    samples = [...agreeing(samples, sample), sample].slice(-REMEMBERED);
  } catch {
    return;
  }
  await isLoaded;
  const best = surest(samples);
  if (best) {
    known = surer(known, best);
    useOffset.setState({ ms: known.offsetMs });
    await keepNumber(OFFSET, known.offsetMs);
    await keepNumber(TRIP, known.tripMs);
  }
}

/** Measures it unless it is known: a press is no use to a server whose clock is not. */
export async function measureOnce() {
  if (!isMeasured()) await measure();
}

/** Keeps the server's clock measured while a page is open. */
export function useMeasuredClock() {
  useEffect(() => {
    let isOpen = true;
    async function measureWell() {
      for (let tries = 0; isOpen && tries < MOST_TRIES; tries += 1) {
        await measure();
        if (tries < LEAST_TRIES - 1) continue;
        // While the page still loads, an answer takes long and says little.
        if ((surest(samples)?.tripMs ?? Infinity) <= GOOD_TRIP_MS) return;
        await new Promise((done) => window.setTimeout(done, AGAIN_MS));
      }
    }
    void measureWell();
    const timer = window.setInterval(() => void measure(), EVERY_MS);
    return () => {
      isOpen = false;
      window.clearInterval(timer);
    };
  }, []);
}

/** Seconds since an epoch by the server's clock, ticking; the tablet's own may be wrong. */
export function useServerNow(): number {
  const ms = useOffset((state) => state.ms);
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => {
      setNow(Date.now());
      if (isSet()) void measure();
    }, 200);
    return () => window.clearInterval(timer);
  }, []);
  return (now + ms) / 1e3;
}
