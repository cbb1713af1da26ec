import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState } from "react";

import type { Piece } from "../../api/client";
import { quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { headsQuery } from "../../shared/standing";
import { betterQuery, fitQuery, piecesQuery } from "./queries";

/** Whether a head goes into the husk. */
export function HeadPanel({ piece }: { piece: Piece }) {
  const system = useUnits((state) => state.system);
  const heads = useQuery(headsQuery());
  const [chosen, setChosen] = useState(2);
  const [wall, setWall] = useState(0.004);
  const head = heads.data?.heads[chosen];
  const fit = useQuery({
    ...fitQuery(
      piece.id,
      piece.version,
      head ?? { name: "", girth_m: 0, breadth_m: 0, length_m: 0 },
      wall,
    ),
    enabled: head !== undefined,
  });
  return (
    <section className="card" aria-label="Does a head go in?">
      <h2>Does a head go in?</h2>
      <div className="field">
        <label htmlFor="head">Head</label>
        <Select
          id="head"
          value={chosen}
          onChange={setChosen}
          options={(heads.data?.heads ?? []).map((one, index) => ({
            value: index,
            label: `${one.name}: ${quantity(one.girth_m, "m", system)} round`,
          }))}
        />
      </div>
      <QuantityField label="Wall of the husk" kind="m" value={wall} onChange={setWall} />
      {fit.error && <Failed error={fit.error} />}
      {fit.data && (
        <>
          <p className={fit.data.passes_opening ? "rim-verdict" : "rim-verdict wrong"}>
            {fit.data.passes_opening ? "It passes the opening" : "It does not pass the opening"}
          </p>
          <p>
            The opening is {quantity(Math.abs(fit.data.opening_spare_m), "m", system)}{" "}
            {fit.data.opening_spare_m < 0 ? "too tight" : "longer than the head"} round; at the
            widest place{" "}
            {fit.data.clearance_m < 0
              ? `the head is ${quantity(-fit.data.clearance_m, "m", system)} too thick all round.`
              : `there are ${quantity(fit.data.clearance_m, "m", system)} of room all round.`}
          </p>
        </>
      )}
      <p className="faint">{heads.data?.source}. A costume helmet is not protective equipment.</p>
    </section>
  );
}

/** Two measures of one thing: which to trust. */
export function ComparePanel({ piece }: { piece: Piece }) {
  const [isOpened, setIsOpened] = useState(false);
  const pieces = useQuery({ ...piecesQuery(), enabled: isOpened });
  const [other, setOther] = useState("");
  const better = useQuery(betterQuery(piece.id, other));
  const others = (pieces.data ?? []).filter((one) => one.id !== piece.id);
  return (
    <section className="card" aria-label="Measured twice?">
      <h2>Measured twice?</h2>
      <div className="field">
        <label htmlFor="other">Another measure of the same thing</label>
        <Select
          id="other"
          value={other || null}
          placeholder="Choose"
          loading={pieces.isFetching}
          notFoundContent={pieces.isSuccess ? "No other piece yet." : "Loading the pieces …"}
          onOpenChange={() => setIsOpened(true)}
          onChange={(id: string | null) => setOther(id ?? "")}
          options={others.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      {pieces.error && <Failed error={pieces.error} />}
      {better.error && <Failed error={better.error} />}
      {better.data && (
        <p role="status">
          Take <b>{better.data.name}</b>: {better.data.reason}
        </p>
      )}
    </section>
  );
}
