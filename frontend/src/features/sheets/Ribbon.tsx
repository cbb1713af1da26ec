import type { Plan, Stretch } from "../../api/client";
import { duration } from "../../shared/format";

const WORDS: Record<Stretch["kind"], string> = {
  cup: "cup",
  roll: "roll",
  set: "set",
  tack: "next coat may go on",
  cure: "cure",
};

/** A round number of minutes that gives about ten ticks. */
function tickSeconds(span: number): number {
  const steps = [60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 28_800, 86_400];
  return steps.find((step) => span / step <= 12) ?? 86_400;
}

/** Cup, roll, tack and cure to scale, two lanes so that a cup beside an open window is seen. */
export function Ribbon({ plan, stale }: { plan: Plan; stale: boolean }) {
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
            className={`stretch ${one.kind} lane-${one.coat % 2}`}
            style={{ left: percent(one.from_s), width: width(one) }}
            title={`Coat ${one.coat}, ${WORDS[one.kind]}: ${duration(one.until_s - one.from_s)}`}
          >
            {one.kind === "cup" && <b>{one.coat}</b>}
            <span>{one.kind === "cure" ? "cure" : WORDS[one.kind]}</span>
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
      <p className="legend">
        <span className="key cup" /> hands: mix and pour <span className="key roll" /> hands: keep
        rolling <span className="key tack" /> the next coat may go on <span className="key cure" />{" "}
        hands free; out of the mould after <b>{duration(plan.out_after_s)}</b>
      </p>
    </section>
  );
}
