import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";

import { ProblemError } from "../../api/client";
import { duration, quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { catalystQuery } from "./queries";

/** Of a condensation rubber: how much catalyst for this room, and part of it fast. */
export function CatalystPanel() {
  const [isOpen, setIsOpen] = useState(false);
  return (
    <section className="card" aria-label="Catalyst">
      <h2>Catalyst</h2>
      {isOpen ? (
        <Doses />
      ) : (
        <Button onClick={() => setIsOpen(true)}>Try another dose or room</Button>
      )}
    </section>
  );
}

function Doses() {
  const system = useUnits((state) => state.system);
  const [share, setShare] = useState(0.1);
  const [fast, setFast] = useState(0);
  const [room, setRoom] = useState(296.15);
  const found = useQuery(catalystQuery(share, fast, room));
  const problems = found.error instanceof ProblemError ? found.error.fields : {};
  return (
    <>
      <QuantityField
        label="Room"
        kind="K"
        value={room}
        onChange={setRoom}
        problem={problems.room_temperature_k}
      />
      <QuantityField
        label="Catalyst, of part A by weight"
        kind="share"
        value={share}
        onChange={setShare}
        problem={problems.catalyst}
      />
      <QuantityField
        label="Of it, fast catalyst"
        kind="share"
        value={fast}
        onChange={setFast}
        problem={problems.fast_share}
      />
      {found.error && Object.keys(problems).length === 0 && <Failed error={found.error} />}
      {found.data && !found.error && (
        <dl>
          <div>
            <dt>pot life</dt>
            <dd>{duration(found.data.pot_life_s)}</dd>
          </div>
          <div>
            <dt>cured in</dt>
            <dd>{duration(found.data.cure_s)}</dd>
          </div>
          <div>
            <dt>life of the mould</dt>
            <dd>{quantity(found.data.life, "share", system)} of the usual</dd>
          </div>
          <div>
            <dt>for the usual pot life in this room</dt>
            <dd>{quantity(found.data.advised_share, "share", system)} of catalyst</dd>
          </div>
        </dl>
      )}
      <p className="faint">
        Typical of the class, from memory, between data-sheet points only: the sheet of your kit
        stands above it.
      </p>
    </>
  );
}
