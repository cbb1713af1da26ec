import { useQuery } from "@tanstack/react-query";
import { Button, Radio, Select, Slider } from "antd";
import { useState } from "react";

import { ProblemError, type Piece, type RimTest, type Survey } from "../../api/client";
import { quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import {
  betterQuery,
  fitQuery,
  headsQuery,
  piecesQuery,
  rimQuery,
  useSurveyAgain,
} from "./queries";

const RADIANS = Math.PI / 180;

/** What was found out about the face, and what may be asked otherwise. */
export function SurveyPanel({ piece, survey }: { piece: Piece; survey: Survey }) {
  const system = useUnits((state) => state.system);
  const again = useSurveyAgain(piece.id);
  const asked = piece.asked as {
    skin?: "outer" | "all";
    skirt_m?: number;
    rim_z_m?: number | null;
  };
  const [skin, setSkin] = useState(asked.skin ?? "outer");
  const [skirt, setSkirt] = useState(asked.skirt_m ?? 0);
  const [unreadable, setUnreadable] = useState(false);
  const problems = again.error instanceof ProblemError ? again.error.fields : {};
  return (
    <section className="card" aria-label="What was found">
      <h2>What was found</h2>
      <p>{survey.skin.said}</p>
      {survey.repairs.map((one) => (
        <p key={one.kind}>{one.said}</p>
      ))}
      {survey.narrow.slice(0, 4).map((one) => (
        <p key={one.at_m.join()} className="due">
          {quantity(one.width_m, "m", system)} wide, {quantity(one.volume_m3, "m3", system)}: with a
          wall of 3 mm it fills solid.
        </p>
      ))}
      <dl>
        <div>
          <dt>opening, by tape</dt>
          <dd>{survey.opening_girth_m ? quantity(survey.opening_girth_m, "m", system) : "none"}</dd>
        </div>
        <div>
          <dt>widest girth</dt>
          <dd>{quantity(survey.widest_girth_m, "m", system)}</dd>
        </div>
        {Object.entries(survey.shell_volume_m3).map(([wall, volume]) => (
          <div key={wall}>
            <dt>a wall of {quantity(Number(wall), "m", system)}</dt>
            <dd>{quantity(volume, "m3", system)}</dd>
          </div>
        ))}
      </dl>
      <p>
        <a href={`/api/v1/pieces/${piece.id}/girths.csv`}>Girths by height as CSV</a>
      </p>
      {piece.source === "file" && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            again.mutate({
              version: piece.version,
              skin,
              skirt_m: skirt,
              rim_z_m: asked.rim_z_m ?? null,
            });
          }}
        >
          <Radio.Group
            aria-label="Casting face"
            value={skin}
            onChange={(event) => setSkin(event.target.value as "outer" | "all")}
          >
            <Radio value="outer">outer skin alone</Radio>
            <Radio value="all">every face</Radio>
          </Radio.Group>
          <QuantityField
            label="Skirt past the rim, cast and cut away"
            kind="m"
            value={skirt}
            onChange={setSkirt}
            onUnreadable={setUnreadable}
            problem={problems.skirt}
          />
          {again.error && <Failed error={again.error} />}
          <Button htmlType="submit" loading={again.isPending} disabled={unreadable}>
            Measure again
          </Button>
        </form>
      )}
    </section>
  );
}

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
    <section className="card" aria-label="Does it spill?">
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
          <SectionDrawing rim={rim.data} />
          <p>
            It holds {quantity(rim.data.holds_m3, "m3", system)} at this tilt, and all of it up to{" "}
            {Math.floor(rim.data.largest_tilt / RADIANS)}°.
            {rim.data.spills &&
              (rim.data.skirt_m === null
                ? " No skirt would hold it: close the opening."
                : ` A skirt of ${quantity(rim.data.skirt_m, "m", system)} would hold it.`)}
          </p>
        </div>
      )}
    </section>
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
  const pieces = useQuery(piecesQuery());
  const [other, setOther] = useState("");
  const better = useQuery(betterQuery(piece.id, other));
  const others = (pieces.data ?? []).filter((one) => one.id !== piece.id);
  if (others.length === 0) return null;
  return (
    <section className="card" aria-label="Measured twice?">
      <h2>Measured twice?</h2>
      <div className="field">
        <label htmlFor="other">Another measure of the same thing</label>
        <Select
          id="other"
          value={other || null}
          placeholder="Choose"
          onChange={(id: string | null) => setOther(id ?? "")}
          options={others.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      {better.error && <Failed error={better.error} />}
      {better.data && (
        <p role="status">
          Take <b>{better.data.name}</b>: {better.data.reason}
        </p>
      )}
    </section>
  );
}
