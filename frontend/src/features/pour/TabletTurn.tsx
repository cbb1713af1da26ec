import { Button } from "antd";

import { duration } from "../../shared/format";
import { useDeviceOf } from "../../shared/live";
import { canTell, useTabletTurn } from "./tabletTurn";

/** Offers this tablet as the sensor on the mould, where no other one is there. */
export function TabletTurn({ pour, coat }: { pour: string; coat: number }) {
  const sensor = useDeviceOf("turn");
  const { state, recordedS, begin, end } = useTabletTurn(pour, coat);
  if ((sensor && !sensor.standin) || !canTell()) return null;
  if (state === "off")
    return (
      <div className="tablet-turn">
        <Button type="text" onClick={begin}>
          Record the turning with this tablet
        </Button>
        <p className="say-small">
          Strap it flat on the opening, screen outwards, and tick off on another screen.
        </p>
      </div>
    );
  return (
    <div className="tablet-turn">
      <p className="say-small" role="status">
        {state === "denied" && "This browser was not allowed to tell how it is held."}
        {state === "silent" && "Waiting for this tablet to tell how it is held …"}
        {state === "records" && `This tablet has recorded ${duration(recordedS ?? 0)} of it.`}
      </p>
      {state !== "denied" && <Button onClick={end}>Stop recording</Button>}
    </div>
  );
}
