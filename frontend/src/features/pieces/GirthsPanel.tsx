import { useQuery } from "@tanstack/react-query";
import { Radio } from "antd";
import { useState } from "react";

import type { Girth, Piece } from "../../api/client";
import { quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { AXES, girthsQuery, type Axis } from "./queries";

const WORDS: Record<Axis, string> = {
  out: "its own axis",
  x: "x",
  y: "y",
  z: "z",
};

/** What a tape round the piece measures, height by height. */
export function GirthsPanel({ piece }: { piece: Piece }) {
  const system = useUnits((state) => state.system);
  const [axis, setAxis] = useState<Axis>("out");
  const girths = useQuery(girthsQuery(piece.id, piece.version, axis));
  const query = new URLSearchParams(
    Object.entries(AXES[axis]).map(([name, value]) => [name, String(value)]),
  );
  const widest = girths.data && Math.max(...girths.data.map((one) => one.girth_m));
  return (
    <section className="card" aria-label="Girth by height">
      <h2>Girth by height</h2>
      <Radio.Group
        aria-label="Heights run along"
        optionType="button"
        value={axis}
        onChange={(event) => setAxis(event.target.value as Axis)}
        options={Object.entries(WORDS).map(([value, label]) => ({ value, label }))}
      />
      {girths.isPending && <Loading what="the girths" />}
      {girths.error && <Failed error={girths.error} />}
      {girths.data && widest !== undefined && (
        <>
          <p>
            Widest: <b>{quantity(widest, "m", system)}</b>, at{" "}
            {quantity(
              girths.data.find((one) => one.girth_m === widest)?.height_m ?? 0,
              "m",
              system,
            )}{" "}
            from the far end.
          </p>
          <Bars girths={girths.data} widest={widest} />
        </>
      )}
      <a href={`/api/v1/pieces/${piece.id}/girths.csv?${query.toString()}`}>Girths as CSV</a>
    </section>
  );
}

/** One bar a height, the far end below: the piece as a tape sees it. */
function Bars({ girths, widest }: { girths: Girth[]; widest: number }) {
  const step = 100 / girths.length;
  return (
    <svg
      className="girth-bars"
      role="img"
      aria-label="Girth at each height, the far end below"
      viewBox="-50 0 100 100"
      preserveAspectRatio="none"
    >
      {girths.map((one, at) => {
        const half = widest > 0 ? (one.girth_m / widest) * 50 : 0;
        return (
          <rect
            key={at}
            x={-half}
            width={2 * half}
            y={100 - (at + 1) * step + 0.15 * step}
            height={0.7 * step}
          />
        );
      })}
    </svg>
  );
}
