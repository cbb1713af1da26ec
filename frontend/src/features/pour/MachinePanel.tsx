import { Button } from "antd";
import { useEffect, useState } from "react";

import type { Pour } from "../../api/client";
import { withUnit } from "../../shared/format";
import { useDeviceOf, useLive } from "../../shared/live";
import { Failed } from "../../shared/states";
import { useOutbox } from "./outbox";
import { useMachine } from "./queries";
import { forgetStart, useStartAsked } from "./startWithPour";

const FAULTS: Record<string, string> = {
  "emergency-stop": "its emergency stop is pressed",
  belt: "a belt has slipped",
};

/** The machine with the mould in it: how it shall turn, how it does, and one target that stops it. */
export function MachinePanel({ pour, coat }: { pour: Pour; coat: number }) {
  const machine = useDeviceOf("machine");
  const { start, stop } = useMachine(pour.id);
  const [refused, setRefused] = useState("");
  useLive((told) => {
    if (told.topic === "refused" && told.id === machine?.id) setRefused(told.why);
  });
  const rates = pour.coats[coat - 1]?.rates;
  const id = machine?.id;
  const begin = start.mutate;
  const asked = useStartAsked(({ asked }) =>
    asked?.pour === pour.id && asked.coat === coat ? asked : null,
  );
  useEffect(() => {
    if (!id || !asked || asked.isLate) return;
    forgetStart();
    begin(id);
  }, [asked, id, begin]);
  // That the coat is in the mould must be known to the server first.
  const isWaiting = useOutbox(({ presses }) =>
    presses.some((one) => one.pour === pour.id && one.refused === undefined),
  );
  if (!machine || !rates) return null;
  function turn() {
    forgetStart();
    if (id) begin(id);
  }
  const turns = machine.state === "turning";
  return (
    <section className="machine" aria-label="Machine">
      <p>
        {machine.name}: {rates.over_rpm} turns a minute over, {rates.round_rpm} round
        {rates.reverse_s !== null && `, the other way every ${withUnit(rates.reverse_s, "s")}`}
        {turns && (
          <span className="angles">
            , now at {Math.round(machine.over_deg ?? 0)}° and {Math.round(machine.round_deg ?? 0)}°
          </span>
        )}
        .
      </p>
      {machine.fault && (
        <p className="wrong" role="alert">
          It stands: {FAULTS[machine.fault] ?? machine.fault}. Turn the mould by hand until that is
          mended.
        </p>
      )}
      {refused && !turns && !machine.fault && (
        <p className="wrong" role="alert">
          It did not start: {refused.replaceAll("-", " ")}.
        </p>
      )}
      {asked?.isLate && !turns && (
        <p className="wrong" role="alert">
          It was not started: the press came late to the server. Start it when hands are clear.
        </p>
      )}
      {(start.error ?? stop.error) && <Failed error={start.error ?? stop.error} />}
      <div className="machine-presses">
        <Button danger type="primary" className="stop" onClick={() => stop.mutate(machine.id)}>
          Stop the machine
        </Button>
        {!turns && (
          <Button disabled={Boolean(machine.fault) || isWaiting} onClick={turn}>
            Start it turning
          </Button>
        )}
      </div>
      <p className="bench-caution">
        The machine’s own emergency stop comes first; follow its maker’s instructions.
      </p>
    </section>
  );
}
