import { useQuery } from "@tanstack/react-query";
import { Checkbox, Select, Slider } from "antd";
import { lazy, Suspense, useState } from "react";
import { Link, useParams } from "react-router";

import type { CastSheet, WallQuestion, WallRun } from "../../api/client";
import { SCALE_CSS } from "../../husk/wallMaterial";
import { duration, quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { jobQuery, useWhenDone } from "../jobs/queries";
import { sheetQuery } from "../sheets/queries";
import { motionsQuery, wallQuery } from "./queries";

const WallView = lazy(() => import("../../husk/WallView"));

/** Faces of the first answer, which comes at once, and of the one that stands. [m] */
const COARSE_M = 0.012;
const FINE_M = 0.005;

/** How the coats of a sheet land in the turning mould. */
export function WallPage() {
  const { id = "" } = useParams();
  const sheet = useQuery(sheetQuery(id));
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />;
  if (!sheet.data) return <Loading what="the sheet" />;
  return <WallOf sheet={sheet.data} />;
}

/** A run, coarse first; the finer one as soon as it is there. */
function useWall(sheet: CastSheet, how: Omit<WallQuestion, "edge_m">) {
  const coarse = useAsked(sheet, { ...how, edge_m: COARSE_M }, true);
  const fine = useAsked(sheet, { ...how, edge_m: FINE_M }, coarse.run !== null);
  return {
    run: fine.run ?? coarse.run,
    isFine: fine.run !== null,
    job: coarse.run ? fine.job : coarse.job,
    error: coarse.error ?? fine.error,
  };
}

function useAsked(sheet: CastSheet, asked: WallQuestion, enabled: boolean) {
  const wall = useQuery({ ...wallQuery(sheet.id, sheet.version, asked), enabled });
  const jobId = wall.data?.job?.id ?? null;
  const job = useQuery({ ...jobQuery(jobId ?? ""), enabled: jobId !== null });
  const known = jobId === null ? undefined : job.data;
  useWhenDone(known, ["walls"], () => undefined);
  return { run: wall.data?.run ?? null, job: known, error: wall.error };
}

function WallOf({ sheet }: { sheet: CastSheet }) {
  const [motion, setMotion] = useState("machine");
  const [capped, setCapped] = useState(true);
  const motions = useQuery(motionsQuery());
  const { run, isFine, job, error } = useWall(sheet, { motion, capped });
  const chosen = motions.data?.find((one) => one.name === motion);
  return (
    <section className="page wall-page">
      <header>
        <h1>The wall of “{sheet.name}”</h1>
        <span className="actions">
          <Link className="ant-btn big-link" to={`/sheets/${sheet.id}`}>
            Back to the sheet
          </Link>
        </span>
      </header>
      <div className="wall">
        <aside className="asked" aria-label="How it is turned">
          <div className="field">
            <label htmlFor="wall-motion">Turned</label>
            <Select
              id="wall-motion"
              value={motion}
              onChange={setMotion}
              options={(motions.data ?? []).map((one) => ({
                value: one.name,
                label: one.name.replaceAll("-", " "),
              }))}
            />
            <div className="hint">{chosen?.says}</div>
          </div>
          <Checkbox checked={capped} onChange={(event) => setCapped(event.target.checked)}>
            A lid closes the opening
          </Checkbox>
          {error && <Failed error={error} />}
          {job && job.status !== "done" && <JobProgress job={job} />}
        </aside>
        {run ? (
          <Landed key={run.id} run={run} isFine={isFine} />
        ) : (
          !error && job?.status !== "refused" && <Loading what="the first coat" />
        )}
      </div>
    </section>
  );
}

function Landed({ run, isFine }: { run: WallRun; isFine: boolean }) {
  const system = useUnits((state) => state.system);
  const [coat, setCoat] = useState(0);
  const [cut, setCut] = useState(100);
  const [touched, setTouched] = useState<number[] | null>(null);
  const length = (metres: number) => quantity(metres, "m", system);
  return (
    <>
      <div className="wall-view">
        <Suspense fallback={<Loading what="the view" />}>
          <WallView
            runId={run.id}
            coats={run.coats.length}
            coat={coat}
            targetM={run.target_m}
            cut={cut / 100}
            onTouch={setTouched}
          />
        </Suspense>
        <div className="wall-scale" aria-label="Scale of the colours">
          <span>0</span>
          <span className="bar" style={{ background: SCALE_CSS }} />
          <span>{length(1.5 * (coat === 0 ? run.target_m : run.target_m / run.coats.length))}</span>
        </div>
        <p className="faint">
          Hatched is thinner than {coat === 0 ? "wished" : "its part of the wish"}; the line is{" "}
          {length(coat === 0 ? run.target_m : run.target_m / run.coats.length)}. Touch a place for
          its coats.
        </p>
        <div className="wall-tools">
          <div className="field">
            <label htmlFor="wall-coat">Shown</label>
            <Select
              id="wall-coat"
              value={coat}
              onChange={setCoat}
              options={[
                { value: 0, label: "all coats" },
                ...run.coats.map((_, at) => ({ value: at + 1, label: `coat ${at + 1} alone` })),
              ]}
            />
          </div>
          <div className="field wide">
            <label htmlFor="wall-cut">Cut open from the right</label>
            <Slider
              id="wall-cut"
              ariaLabelForHandle="Where it is cut open"
              min={0}
              max={100}
              value={cut}
              onChange={setCut}
              tooltip={{ open: false }}
            />
          </div>
        </div>
        {touched && (
          <p role="status" className="touched">
            Here <b>{length(touched.reduce((sum, one) => sum + one, 0))}</b>:{" "}
            {touched.map((one, at) => `coat ${at + 1} ${length(one)}`).join(", ")}
          </p>
        )}
      </div>
      <div className="wall-figures">
        <p className="faint">
          {isFine ? "Estimate" : "First, coarse estimate; a finer one is computed"}: surface tension
          and inertia are left out.
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
          {neededWords(run)}
        </p>
        <dl className="figures">
          <Figure label="Mean" value={length(run.mean_m)} />
          <Figure label="Thinnest" value={length(run.min_m)} />
          <Figure label="Thickest" value={length(run.max_m)} />
          <Figure label="Cast weighs" value={quantity(run.cast_kg, "kg", system)} />
          <Figure label="Set as a pool" value={quantity(run.pool_kg, "kg", system)} />
          <Figure label="Over the rim" value={quantity(run.spilt_kg, "kg", system)} />
          {run.capped && <Figure label="On the lid" value={quantity(run.lid_kg, "kg", system)} />}
          <Figure
            label="All wet"
            value={run.all_wet_s === null ? "never" : `after ${duration(run.all_wet_s)}`}
          />
        </dl>
        {run.in_air_m2 > 1e-5 && (
          <p className="wrong">
            A bubble of trapped air kept {quantity(run.in_air_m2, "m2", system)} dry in the first
            coat.
          </p>
        )}
        <Places title="Thin places" places={run.thin_places} />
        <Places title="Thick places" places={run.thick_places} />
        <h2>Coat by coat</h2>
        <table className="coats">
          <thead>
            <tr>
              <th>Coat</th>
              <th>In the mould</th>
              <th>Mean</th>
              <th>95 % over</th>
              <th>Wet</th>
            </tr>
          </thead>
          <tbody>
            {run.coats.map((one, at) => (
              <tr key={at}>
                <th>{at + 1}</th>
                <td>{quantity(one.charge_kg, "kg", system)}</td>
                <td>{length(one.mean_m)}</td>
                <td>{length(one.p05_m)}</td>
                <td>{one.all_wet_s === null ? "never all" : duration(one.all_wet_s)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="links">
          {(["glb", "ply", "csv"] as const).map((kind) => (
            <a key={kind} href={`/api/v1/walls/${run.id}/wall.${kind}`}>
              Wall as {kind.toUpperCase()}
            </a>
          ))}
        </p>
      </div>
    </>
  );
}

function neededWords(run: WallRun): string {
  if (run.coats_needed === null)
    return "Some place takes nothing: no number of such coats mends it; turn it another way.";
  if (run.coats_needed <= run.coats.length) return "";
  return `${run.coats_needed} such coats would keep it on 99 % of the face.`;
}

function Figure({ label, value }: { label: string; value: string }) {
  return (
    <div>
      <dt>{label}</dt>
      <dd>{value}</dd>
    </div>
  );
}

function Places({ title, places }: { title: string; places: WallRun["thin_places"] }) {
  const system = useUnits((state) => state.system);
  if (places.length === 0) return null;
  return (
    <>
      <h2>{title}</h2>
      <ul className="places">
        {places.map((one) => (
          <li key={one.at_m.join()}>
            {one.name}: <b>{quantity(one.wall_m, "m", system)}</b> on{" "}
            {quantity(one.area_m2, "m2", system)}
          </li>
        ))}
      </ul>
    </>
  );
}
