import { useEffect, useRef } from "react";

import { countdown, duration } from "../../shared/format";
import { sound, type Tone } from "./tones";

export interface Running {
  label: string;
  /** Seconds of the server's clock. */
  from: number;
  until: number;
  /** What is said when it has run out, and how that sounds. */
  over: string;
  tone: Tone;
}

const SOON_S = 15;
/** What is left when it is said aloud, the least first. [s] */
const SAID_AT_S = [SOON_S, 60, 300];
const RADIUS = 130;
const ROUND = 2 * Math.PI * RADIUS;

/** A ring that runs out, with the time left in the middle. */
export function Ring({ running, now }: { running: Running; now: number }) {
  const left = running.until - now;
  const share = Math.min(1, Math.max(0, left / (running.until - running.from)));
  const isOver = left <= 0;
  const shown = isOver ? `+${countdown(now - running.until)}` : countdown(left);
  const wasOver = useRef(isOver);

  const isSoon = left <= SOON_S;
  const wasSoon = useRef(isSoon);

  useEffect(() => {
    if (isOver && !wasOver.current) sound(running.tone);
    wasOver.current = isOver;
  }, [isOver, running.tone]);
  useEffect(() => {
    // What will be too late is heard before it is.
    if (isSoon && !wasSoon.current && running.tone === "late") sound("pour");
    wasSoon.current = isSoon;
  }, [isSoon, running.tone]);

  return (
    <div className={isOver ? "ring over" : "ring"}>
      <span className="out-of-sight" role="status">
        {aloud(running, left)}
      </span>
      <svg viewBox="0 0 300 300" aria-hidden>
        <circle cx="150" cy="150" r={RADIUS} className="ring-back" />
        <circle
          cx="150"
          cy="150"
          r={RADIUS}
          className="ring-left"
          strokeDasharray={`${ROUND * share} ${ROUND}`}
          transform="rotate(-90 150 150)"
        />
      </svg>
      <div className="ring-text" role="timer" aria-label={running.label}>
        <span>{isOver ? running.over : running.label}</span>
        <b className={shown.length > 5 ? "long" : undefined}>{shown}</b>
      </div>
    </div>
  );
}

/** What is read aloud: nothing while there is time, then each mark once, then that it is over. */
function aloud(running: Running, left: number): string {
  if (left <= 0) return running.over;
  const mark = SAID_AT_S.find((one) => left <= one);
  return mark === undefined ? "" : `${running.label}: ${duration(mark)} left`;
}
