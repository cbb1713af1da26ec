import type { WallRun } from "../../api/client";
import { duration, quantity } from "../../shared/format";
import { useUnits } from "../../shared/units";

/** The one number that counts, and how much of the face falls short of it. */
export function WallHeadline({ run }: { run: WallRun }) {
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
        <b>{length(run.p05_m)}</b> or more on 95 % of the face
      </p>
      <p>
        {run.under_target < 0.005 ? (
          <>The wished {length(run.target_m)} is kept nearly everywhere.</>
        ) : (
          <>
            <b>{quantity(run.under_target, "share", system)}</b> of the face is under the wished{" "}
            {length(run.target_m)}.
          </>
        )}{" "}
        {neededWords(run)}{" "}
        {run.lid_kg > 0 && (
          <>
            The lid keeps {quantity(run.lid_kg, "kg", system)}, which the sheet does not weigh
            in.{" "}
          </>
        )}
        {run.paste_saves_kg !== null && run.paste_saves_kg > 0 && (
          <>
            Or spread about {quantity(run.paste_kg, "kg", system)} as a paste on the thin places:{" "}
            {quantity(run.paste_saves_kg, "kg", system)} less.
          </>
        )}
      </p>
    </>
  );
}

/** All that a wall came to. */
export function WallFigures({ run }: { run: WallRun }) {
  const system = useUnits((state) => state.system);
  const length = (metres: number) => quantity(metres, "m", system);
  return (
    <div className="wall-figures">
      <WallHeadline run={run} />
      <dl className="figures">
        <Figure label="Mean" value={length(run.mean_m)} />
        <Figure label="Thinnest" value={length(run.min_m)} where={run.thinnest_at} />
        <Figure label="Thickest" value={length(run.max_m)} where={run.thickest_at} />
        <Figure label="Cast weighs" value={quantity(run.cast_kg, "kg", system)} />
        <Figure label="In puddles" value={quantity(run.pool_kg, "kg", system)} />
        <Figure label="Over the rim" value={quantity(run.spilt_kg, "kg", system)} />
        <Figure
          label="All wet"
          value={run.all_wet_s === null ? "never" : `after ${duration(run.all_wet_s)}`}
        />
        <Figure
          label="Still"
          value={run.still_s === null ? "at once" : `after ${duration(run.still_s)}`}
        />
      </dl>
      {run.in_air_m2 > 1e-5 && (
        <p className="wrong">
          A bubble of trapped air kept {quantity(run.in_air_m2, "m2", system)} dry in the first
          coat.
        </p>
      )}
      <Places
        title={
          run.thin_under_m < run.target_m
            ? `The thinnest places, under ${length(run.thin_under_m)}, numbered on the piece`
            : "Thin places, numbered on the piece"
        }
        places={run.thin_places}
      />
      <Places title="Thick places" places={run.thick_places} />
      <h2>Coat by coat</h2>
      <table className="coats">
        <thead>
          <tr>
            <th scope="col">Coat</th>
            <th scope="col">In the mould</th>
            <th scope="col">Mean</th>
            <th scope="col">95 % over</th>
            <th scope="col">Wet</th>
          </tr>
        </thead>
        <tbody>
          {run.coats.map((one, at) => (
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
        Centre of mass at {run.centre_of_mass_m.map((one) => Math.round(one * 1e3)).join(", ")} mm
        (x, y, z of the file).
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

function neededWords(run: WallRun): string {
  if (run.coats_needed === null)
    return "Some place takes nothing: no number of such coats mends it; turn it another way.";
  const thinnest = run.coats_for_thinnest;
  if (thinnest !== null && thinnest <= run.coats.length) return "";
  const there = thinnest === null ? "no number of them does" : `it takes about ${thinnest}`;
  return run.coats_needed <= run.coats.length
    ? `At its thinnest ${there}.`
    : `About ${run.coats_needed} such coats would keep it on 99 % of the face; at its thinnest ${there}.`;
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

function Places({ title, places }: { title: string; places: WallRun["thin_places"] }) {
  const system = useUnits((state) => state.system);
  if (places.length === 0) return null;
  return (
    <>
      <h2>{title}</h2>
      <ol className="places">
        {places.map((one) => (
          <li key={one.at_m.join()}>
            {one.name}: <b>{quantity(one.wall_m, "m", system)}</b> on{" "}
            {quantity(one.area_m2, "m2", system)}
          </li>
        ))}
      </ol>
    </>
  );
}
