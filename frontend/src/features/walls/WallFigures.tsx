import type { WallRun } from "../../api/client";
import { duration, quantity } from "../../shared/format";
import { useUnits } from "../../shared/units";
import { useSeen } from "./seen";

/** The one number that counts, and how much of the face falls short of it. */
export function WallHeadline({ run }: { run: WallRun }) {
  const { wall } = run;
  const system = useUnits((state) => state.system);
  const length = (metres: number) => quantity(metres, "m", system);
  return (
    <>
      <p className="faint">
        {run.is_first_look
          ? "A first look: the first coat stands for all; the rest is being computed."
          : run.doubt}
      </p>
      <p className="wall-big">
        <b>{length(wall.p05_m)}</b> or more on 95&nbsp;% of the face
      </p>
      <p>
        {wall.under_target < 0.005 ? (
          <>The wished {length(wall.target_m)} is kept nearly everywhere.</>
        ) : (
          <>
            <b>{quantity(wall.under_target, "share", system)}</b> of the face is under the wished{" "}
            {length(wall.target_m)}.
          </>
        )}{" "}
        {neededWords(wall)}{" "}
        {wall.lid_kg > 0 && <>The lid keeps {quantity(wall.lid_kg, "kg", system)}. </>}
        {wall.paste_saves_kg !== null && wall.paste_saves_kg > 0 && (
          <>
            Or spread about {quantity(wall.paste_kg, "kg", system)} as a paste on the thin places:{" "}
            {quantity(wall.paste_saves_kg, "kg", system)} less.
          </>
        )}
      </p>
    </>
  );
}

/** All that a wall came to. */
export function WallFigures({ run }: { run: WallRun }) {
  const { wall } = run;
  const system = useUnits((state) => state.system);
  const length = (metres: number) => quantity(metres, "m", system);
  return (
    <div className="wall-figures">
      <WallHeadline run={run} />
      <dl className="figures">
        <Figure label="Mean" value={length(wall.mean_m)} />
        <Figure
          label={`1\u00a0% under`}
          value={length(wall.p01_m)}
          where={`thinnest: ${wall.thinnest_at}`}
        />
        <Figure label="Thickest" value={length(wall.max_m)} where={wall.thickest_at} />
        <Figure label="Cast weight" value={quantity(wall.cast_kg, "kg", system)} />
        <Figure label="In puddles" value={quantity(wall.pool_kg, "kg", system)} />
        <Figure label="Over the rim" value={quantity(wall.spilt_kg, "kg", system)} />
        <Figure
          label="All wet"
          value={wall.all_wet_s === null ? "never" : `after ${duration(wall.all_wet_s)}`}
        />
        <Figure
          label="Still"
          value={wall.still_s === null ? "at once" : `after ${duration(wall.still_s)}`}
        />
      </dl>
      {wall.in_air_m2 > 1e-5 && (
        <p className="wrong">
          A bubble of trapped air kept {quantity(wall.in_air_m2, "m2", system)} dry in the first
          coat.
        </p>
      )}
      <Places
        title={
          wall.thin_under_m < wall.target_m
            ? `The thinnest places, under ${length(wall.thin_under_m)}, numbered on the piece`
            : "Thin places, numbered on the piece"
        }
        places={wall.thin_places}
      />
      <Places title="Thick places" places={wall.thick_places} />
      <h2>Coat by coat</h2>
      <table className="coats">
        <thead>
          <tr>
            <th scope="col">Coat</th>
            <th scope="col">In the mould</th>
            <th scope="col">Mean</th>
            <th scope="col">95&nbsp;% over</th>
            <th scope="col">Wet</th>
          </tr>
        </thead>
        <tbody>
          {wall.coats.map((one, at) => (
            <tr key={at}>
              <th scope="row">{at + 1}</th>
              <td>{quantity(one.charge_kg, "kg", system)}</td>
              <td>{length(one.mean_m)}</td>
              <td>{length(one.p05_m)}</td>
              <td>{one.all_wet_s === null ? "never all" : duration(one.all_wet_s)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="faint">
        Centre of mass at {wall.centre_of_mass_m.map((one) => Math.round(one * 1e3)).join(", ")}
        &nbsp;mm (x, y, z of the file).
      </p>
      <p className="links">
        <a href={`/api/v1/walls/${run.id}/wall.pdf`}>Wall on one page (PDF)</a>
        {(["glb", "ply", "csv"] as const).map((kind) => (
          <a key={kind} href={`/api/v1/walls/${run.id}/wall.${kind}`}>
            as {kind.toUpperCase()}
          </a>
        ))}
      </p>
    </div>
  );
}

function neededWords(wall: WallRun["wall"]): string {
  if (wall.coats_needed === null)
    return "Some place takes nothing: no number of such coats mends it; turn it another way.";
  const thinnest = wall.coats_for_thinnest;
  if (thinnest !== null && thinnest <= wall.coats.length) return "";
  const there = thinnest === null ? "no number of them does" : `it takes about ${thinnest}`;
  return wall.coats_needed <= wall.coats.length
    ? `At its thinnest ${there}.`
    : `About ${wall.coats_needed}\u00a0such coats would keep it on 99\u00a0% of the face; at its thinnest ${there}.`;
}

function Figure({ label, value, where }: { label: string; value: string; where?: string }) {
  return (
    <div>
      <dt>{label}</dt>
      <dd>{value}</dd>
      {where && <dd className="where">{where}</dd>}
    </div>
  );
}

function Places({ title, places }: { title: string; places: WallRun["wall"]["thin_places"] }) {
  const system = useUnits((state) => state.system);
  const look = useSeen((state) => state.look);
  if (places.length === 0) return null;
  return (
    <>
      <h2>{title}</h2>
      <ol className="places">
        {places.map((one) => (
          <li key={one.at_m.join()}>
            <button type="button" className="figure" onClick={() => look(one.at_m)}>
              {one.name}
            </button>
            : <b>{quantity(one.wall_m, "m", system)}</b> on {quantity(one.area_m2, "m2", system)}
          </li>
        ))}
      </ol>
    </>
  );
}
