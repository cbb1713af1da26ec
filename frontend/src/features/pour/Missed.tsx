import { Button } from "antd";

import type { Pour } from "../../api/client";
import { duration, quantity } from "../../shared/format";

/** The honest answer to a missed tack window: scuff and go on, or stop with the wall there is. */
export function Missed({ pour, onStop }: { pour: Pour; onStop: () => void }) {
  const missed = pour.missed;
  if (!missed) return null;
  return (
    <div className="missed" role="status">
      <p>
        The window for coat {missed.coat} closed {duration(missed.late_s)} ago: it no longer bonds
        by itself.
      </p>
      <ul>
        <li>
          <b>Go on:</b>{" "}
          {missed.is_hard
            ? "scuff the whole face with a coarse pad, wipe the dust off, then pour."
            : "wait until it is hard, or it smears; then scuff the whole face, wipe the dust off."}{" "}
          Mask on: the dust harms the lungs.
        </li>
        <li>
          <b>Or stop:</b> the wall stays at {quantity(missed.wall_m, "m", "metric")} of{" "}
          {quantity(missed.wanted_m, "m", "metric")}.{" "}
          <Button onClick={onStop}>Stop here and let it cure</Button>
        </li>
      </ul>
    </div>
  );
}
