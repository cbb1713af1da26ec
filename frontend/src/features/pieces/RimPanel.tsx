import { useQuery } from "@tanstack/react-query";
import { Slider } from "antd";
import { lazy, Suspense, useState } from "react";

import { ProblemError, type Piece, type RimTest } from "../../api/client";
import { quantity, type UnitSystem } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { rimQuery } from "./queries";

const RADIANS = Math.PI / 180;
const LevelView = lazy(() => import("../../husk/LevelView"));

/** Whether a charge stays in the tilted mould, drawn as a section. */
export function RimPanel({ piece }: { piece: Piece }) {
  const system = useUnits((state) => state.system);
  const [volume, setVolume] = useState(0.0002);
  const [tilt, setTilt] = useState(30);
  const [unreadable, setUnreadable] = useState(false);
  const asked = { volume_m3: volume, tilt: tilt * RADIANS, heading: 0, skirt_m: 0 };
  const rim = useQuery(rimQuery(piece.id, piece.version, asked));
  const problems = rim.error instanceof ProblemError ? rim.error.fields : {};
  return (
    <section className="card rim" aria-label="Does it spill?">
      <h2>Does it spill?</h2>
      <QuantityField
        label="Liquid in the mould"
        kind="m3"
        value={volume}
        onChange={setVolume}
        onUnreadable={setUnreadable}
        problem={problems.charge}
      />
      <label htmlFor="tilt">Tilted by {tilt}°, its opening up at 0°</label>
      <Slider
        id="tilt"
        ariaLabelForHandle="Tilt in degrees"
        min={0}
        max={90}
        value={tilt}
        onChange={setTilt}
      />
      {rim.error && <Failed error={rim.error} />}
      {rim.isPending && !rim.error && <Loading what="the level" />}
      {rim.data && (
        <div className={unreadable || rim.isError ? "links stale" : "links"}>
          <p className={rim.data.spills ? "rim-verdict wrong" : "rim-verdict"} role="status">
            {rim.data.spills ? "It spills" : "It stays in"}
          </p>
          <div className="side-by-side">
            <SectionDrawing rim={rim.data} />
            <Suspense fallback={<Loading what="the view" />}>
              <LevelView pieceId={piece.id} version={piece.version} rim={rim.data} />
            </Suspense>
          </div>
          <p>
            It holds {quantity(rim.data.holds_m3, "m3", system)} at this tilt, and all of it up to{" "}
            {Math.floor(rim.data.largest_tilt / RADIANS)}°.
            {rim.data.spills && ` ${helpOf(rim.data, system)}`}
          </p>
          <LevelCurve rim={rim.data} system={system} />
        </div>
      )}
    </section>
  );
}

function helpOf(rim: RimTest, system: UnitSystem): string {
  const ways = [
    rim.skirt_m === null ? null : `a skirt of ${quantity(rim.skirt_m, "m", system)}`,
    rim.ledge_m === null ? null : `a ledge of ${quantity(rim.ledge_m, "m", system)} inwards`,
  ].filter(Boolean);
  if (ways.length === 0) return "Neither skirt nor ledge would hold it: close the opening.";
  const said = ways.join(" or ");
  return `${said.charAt(0).toUpperCase()}${said.slice(1)} would hold it.`;
}

/** How much it holds up to a height, at this tilt; the liquid is marked on it. */
function LevelCurve({ rim, system }: { rim: RimTest; system: UnitSystem }) {
  const most = rim.levels.at(-1);
  const [top, whole] = [most?.[0] ?? 0, most?.[1] ?? 0];
  if (top <= 0 || whole <= 0) return null;
  const path = rim.levels
    .map(([level, volume]) => `${((volume ?? 0) / whole) * 100} ${-((level ?? 0) / top) * 60}`)
    .join("L");
  const at = -(Math.min(rim.level_m, top) / top) * 60;
  return (
    <figure className="level-curve">
      <svg
        role="img"
        aria-label="Volume up to each level at this tilt"
        viewBox="0 -60 100 60"
        preserveAspectRatio="none"
      >
        <line className="level" x1={0} x2={100} y1={at} y2={at} />
        <path d={`M${path}`} />
      </svg>
      <figcaption>
        Up to {quantity(top, "m", system)} above its lowest place, {quantity(whole, "m3", system)}.
      </figcaption>
    </figure>
  );
}

/** The cut as the server gives it: across and up, the liquid up to its level. */
function SectionDrawing({ rim }: { rim: RimTest }) {
  const points = rim.section.flat();
  const across = points.map((point) => point[0] ?? 0);
  const up = points.map((point) => point[1] ?? 0);
  const [left, right, top] = [Math.min(...across), Math.max(...across), Math.max(...up)];
  const margin = 0.05 * Math.max(right - left, top);
  const path = rim.section
    .map(([from, to]) => `M${from?.[0]} ${-(from?.[1] ?? 0)}L${to?.[0]} ${-(to?.[1] ?? 0)}`)
    .join("");
  return (
    <svg
      className="rim-section"
      role="img"
      aria-label="Section through the tilted mould with the level of the liquid"
      viewBox={`${left - margin} ${-top - margin} ${right - left + 2 * margin} ${top + 2 * margin}`}
    >
      <line className="level" x1={left} x2={right} y1={-rim.level_m} y2={-rim.level_m} />
      <path d={path} />
    </svg>
  );
}
