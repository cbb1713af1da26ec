import { useEffect, useState } from "react";

import type { PouredCoat } from "../../api/client";
import { quantity } from "../../shared/format";
import { secondsOf } from "./clock";
import { cueAt, followed, heldAt, type Pace } from "./pattern";
import { sound } from "./tones";

/**
 * How the mould is held just now by the pattern: a picture that moves, the same in words, and a
 * tone whenever it is tilted or turned another way. It goes as much faster as the resin ages faster
 * than planned.
 */
export function RollGuide({ coat, now }: { coat: PouredCoat; now: number }) {
  const pace = coat.in_room?.pace ?? 1;
  const rolled = coat.poured_at ? now - secondsOf(coat.poured_at) : 0;
  const [kept, keep] = useState<Pace>({ rolledS: 0, patternS: 0, pace });
  const seconds = followed(kept, rolled);
  if (kept.pace !== pace) keep({ rolledS: rolled, patternS: seconds, pace });
  const held = coat.poured_at ? heldAt(coat.pattern, seconds) : null;
  const cue = cueAt(coat.pattern, seconds);
  const step = cue?.step;
  const tone = cue?.tone;
  useEffect(() => {
    if (tone) sound(tone);
    // Once at every step.
  }, [step, tone]);
  if (!held) return null;
  const over = Math.round(held.tilt);
  const turns = ((Math.round(held.azimuth) % 360) + 360) % 360;
  return (
    <figure className="roll-guide">
      <svg viewBox="-60 -60 120 120" aria-hidden>
        <g transform={`rotate(${held.tilt})`}>
          <path d="M-30 -34 L-30 18 Q-30 40 0 40 Q30 40 30 18 L30 -34" className="held" />
          <path d="M-36 -34 L36 -34" className="rim" />
        </g>
      </svg>
      <svg viewBox="-60 -60 120 120" aria-hidden>
        <circle r="42" className="held" />
        <path d="M0 0 L0 -42" className="rim" transform={`rotate(${turns})`} />
      </svg>
      <figcaption>
        Tilt {Math.abs(over)}°{over < 0 && " to the other side"}, turned {turns}° round
        {pace !== 1 && <span className="pace">{paceWords(pace)}</span>}
      </figcaption>
    </figure>
  );
}

const paceWords = (pace: number) => {
  const faster = quantity(Math.abs(pace - 1), "share", "metric");
  return pace > 1
    ? `${faster} faster: it sets sooner in this room`
    : `${faster} slower: it sets later in this room`;
};
