import type { ReactNode } from "react";

import type { Plan, Stretch } from "../../api/client";
import { duration } from "../../shared/format";

const WORDS: Record<Stretch["kind"], string> = {
  weigh: "weigh the next cup",
  cup: "cup",
  roll: "roll",
  set: "set",
  tack: "next coat may go on",
  cure: "cure",
};

const KEYS = [
  ["weigh", "weigh"],
  ["cup", "mix and pour"],
  ["roll", "keep rolling"],
  ["tack", "the next coat may go on"],
  ["cure", "hands free"],
] as const;

/** A round number of minutes that gives about ten ticks. */
function tickSeconds(span: number): number {
  const steps = [60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 28_800, 86_400];
  return steps.find((step) => span / step <= 12) ?? 86_400;
}

interface Properties {
  plan: Plan;
  stale: boolean;
  children?: ReactNode;
}

/** Cup, roll, tack and cure to scale, two lanes so that a cup beside an open window is seen. */
export function Ribbon({ plan, stale, children }: Properties) {
  const last = plan.coats[plan.coats.length - 1];
  if (!last) return null;
  // The cure is long and hands-free: it is cut off, and says how long it goes on.
  const shownUntil = (last.starts_s + last.roll_until_s) * 1.12;
  const percent = (seconds: number) => `${(Math.min(seconds, shownUntil) / shownUntil) * 100}%`;
  const width = (one: Stretch) =>
    `${((Math.min(one.until_s, shownUntil) - one.from_s) / shownUntil) * 100}%`;
  const tick = tickSeconds(shownUntil);
  const ticks = Array.from({ length: Math.floor(shownUntil / tick) + 1 }, (_, n) => n * tick);
  return (
    <section className={stale ? "ribbon stale" : "ribbon"} aria-label="Ribbon: the coats in time">
      <div className="lanes" aria-hidden>
        {plan.ribbon.map((one) => (
          <div
            key={`${one.coat}-${one.kind}`}
            className={`stretch ${one.kind} lane-${one.coat % 2}${one.short ? " short" : ""}`}
            style={{ left: percent(one.from_s), width: width(one) }}
            title={`Coat ${one.coat}, ${WORDS[one.kind]}: ${duration(one.until_s - one.from_s)}${one.short ? ", too short" : ""}`}
          >
            {one.kind === "cup" && <b>{one.coat}</b>}
            <span>
              {one.short
                ? `too short: ${WORDS[one.kind]}`
                : one.kind === "weigh"
                  ? ""
                  : WORDS[one.kind]}
            </span>
          </div>
        ))}
      </div>
      <div className="ticks" aria-hidden>
        {ticks.map((at) => (
          <span key={at} style={{ left: percent(at) }}>
            {at === 0 ? "0" : duration(at)}
          </span>
        ))}
      </div>
      <p className="out-of-sight">
        {plan.coats
          .map((coat) => `Coat ${coat.number} starts after ${duration(coat.starts_s)}.`)
          .join(" ")}
      </p>
      <div className="ribbon-legend">
        {KEYS.map(([kind, said]) => (
          <span key={kind}>
            <i className={`key ${kind}`} /> {said}
          </span>
        ))}
        <span>
          out of the mould after <b>{duration(plan.out_after_s)}</b>
        </span>
        {children}
      </div>
    </section>
  );
}
