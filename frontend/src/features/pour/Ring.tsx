import { useEffect, useRef } from "react";

import { countdown } from "../../shared/format";
import { beep } from "./clock";

export interface Running {
  label: string;
  /** Seconds of the server's clock. */
  from: number;
  until: number;
  /** What is said when it has run out. */
  over: string;
}

const RADIUS = 130;
const ROUND = 2 * Math.PI * RADIUS;

/** A ring that runs out, with the time left in the middle. */
export function Ring({ running, now }: { running: Running; now: number }) {
  const left = running.until - now;
  const share = Math.min(1, Math.max(0, left / (running.until - running.from)));
  const isOver = left <= 0;
  const wasOver = useRef(isOver);

  useEffect(() => {
    if (isOver && !wasOver.current) beep();
    wasOver.current = isOver;
  }, [isOver]);

  return (
    <div className={isOver ? "ring over" : "ring"} role="timer" aria-label={running.label}>
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
      <div className="ring-text">
        <span>{isOver ? running.over : running.label}</span>
        <b>{isOver ? `+${countdown(now - running.until)}` : countdown(left)}</b>
      </div>
    </div>
  );
}
