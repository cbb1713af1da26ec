import { useQuery } from "@tanstack/react-query";
import { Button, Input, Segmented, Select } from "antd";
import { lazy, Suspense, useState } from "react";

import type { NewReading, Pour, Reading, Readings } from "../../api/client";
import type { Shown } from "../../husk/ReadView";
import { SCALE_CSS } from "../../husk/wallScale";
import { FileButton } from "../../shared/FileButton";
import { carried, number, quantity, unitOf } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { jobQuery, useWhenDone } from "../jobs/queries";
import { LightTest } from "./LightTest";
import {
  readingsQuery,
  useAddReading,
  useFitViscosity,
  useImportReadings,
  useRemoveReading,
  useWeighOffcuts,
} from "./readingQueries";

const ReadView = lazy(() => import("../../husk/ReadView"));
const PieceView = lazy(() => import("../../husk/PieceView"));

const WAYS: Record<Reading["by"], string> = {
  caliper: "caliper at a cut-out",
  hole: "drilled hole",
  magnet: "magnet gauge",
  light: "light through it",
};
const USUAL_WALL_M = 0.003;

type Place = [number, number, number];

/** The wall of a cast as it was read, on the piece, beside what was simulated. */
export function ReadingsPanel({ pour }: { pour: Pour }) {
  const readings = useQuery(readingsQuery(pour.id));
  const [place, setPlace] = useState<Place | null>(null);
  const [shown, setShown] = useState<Shown>("simulated");
  if (readings.isPending) return <Loading what="the readings" />;
  if (readings.isError) return <Failed error={readings.error} />;
  const known = readings.data;
  const isRead = known.readings.some((one) => one.wall_m !== null && one.simulated_m !== null);
  return (
    <section aria-labelledby="readings" className="readings">
      <h2 id="readings">The wall as it was read</h2>
      <div className="readings-columns">
        <div>
          <Look
            pour={pour}
            known={known}
            place={place}
            shown={isRead ? shown : "simulated"}
            onPlace={setPlace}
          />
          {known.simulated && (
            <Segmented
              aria-label="Which wall is shown"
              value={isRead ? shown : "simulated"}
              onChange={(which) => setShown(which as Shown)}
              options={[
                { value: "simulated", label: "simulated" },
                { value: "read", label: "as read", disabled: !isRead },
                { value: "difference", label: "difference", disabled: !isRead },
              ]}
            />
          )}
        </div>
        <div>
          <NewReadingForm pour={pour.id} place={place} onSaved={() => setPlace(null)} />
          <Table pour={pour.id} readings={known.readings} />
          <Viscosity pour={pour.id} known={known} />
          <Files pour={pour.id} />
          <Offcuts pour={pour} />
        </div>
      </div>
    </section>
  );
}

interface LookProperties {
  pour: Pour;
  known: Readings;
  place: Place | null;
  shown: Shown;
  onPlace: (place: Place) => void;
}

function Look({ pour, known, place, shown, onPlace }: LookProperties) {
  const system = useUnits((state) => state.system);
  const pins = known.readings.flatMap((one, at) =>
    one.at_m ? [{ label: `${at + 1}`, at_m: one.at_m }] : [],
  );
  if (place) pins.push({ label: "?", at_m: place });
  if (!known.simulated) {
    const marks = pins.map((one) => ({
      role: "counted" as const,
      at_m: one.at_m as Place,
      radius_m: 0.004,
    }));
    return (
      <Suspense fallback={<Loading what="the view" />}>
        <PieceView
          pieceId={pour.piece_id}
          version={known.piece_version}
          name={pour.piece_name}
          marks={marks}
          onPlace={onPlace}
        />
        <p className="faint">
          Simulate this pour below, and each reading is set beside what was computed for its place.
        </p>
      </Suspense>
    );
  }
  const walls = known.readings.flatMap((one) => [one.wall_m ?? 0, one.simulated_m ?? 0]);
  const wishedM = known.wished_m ?? USUAL_WALL_M;
  const topM = shown === "difference" ? spanOf(known.readings) : Math.max(2 * wishedM, ...walls);
  const length = (metres: number) => quantity(metres, "m", system);
  return (
    <LightTest pour={pour.id}>
      {(over) => (
        <>
          <Suspense fallback={<Loading what="the view" />}>
            <ReadView
              pourId={pour.id}
              version={known.readings.map((one) => one.id).join()}
              shown={shown}
              wishedM={wishedM}
              topM={topM}
              pins={pins}
              onPlace={onPlace}
              over={over}
            />
          </Suspense>
          <div className="wall-scale" aria-label="Scale of the colours">
            <span>{shown === "difference" ? `${length(topM)} thinner` : "0"}</span>
            <span className="bar" style={{ background: SCALE_CSS }} />
            <span>{shown === "difference" ? `${length(topM)} thicker` : length(topM)}</span>
          </div>
          <p className="faint">
            {shown === "simulated"
              ? "As the pour was simulated; hatched is thinner than wished."
              : "Between the readings it is an estimate that leans on those within about 50\u00a0mm."}
          </p>
        </>
      )}
    </LightTest>
  );
}

/** The largest difference, rounded up to a half millimetre. [m] */
function spanOf(readings: readonly Reading[]): number {
  const off = readings.map((one) => Math.abs((one.wall_m ?? 0) - (one.simulated_m ?? 0)));
  return Math.max(0.0005, Math.ceil(Math.max(...off) * 2e3) / 2e3);
}

interface FormProperties {
  pour: string;
  place: Place | null;
  onSaved: () => void;
}

function NewReadingForm({ pour, place, onSaved }: FormProperties) {
  const add = useAddReading(pour);
  const [by, setBy] = useState<Reading["by"]>("caliper");
  const [wallM, setWallM] = useState(USUAL_WALL_M);
  const [light, setLight] = useState("yes");
  const [words, setWords] = useState("");
  const [bad, setBad] = useState(false);

  function save() {
    const body: NewReading = {
      by,
      wall_m: by === "light" ? null : wallM,
      light: by === "light" ? light === "yes" : null,
      at_m: place,
      place: words,
    };
    const clear = () => {
      setWords("");
      onSaved();
    };
    add.mutate(body, { onSuccess: clear });
  }

  return (
    <form
      className="cast-panel"
      aria-label="A new reading"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <p className="where" role="status">
        {place
          ? "The place is marked with “?”."
          : "Touch the piece where you read it, or say the place in words."}
      </p>
      <div className="field">
        <label htmlFor="read-by">Read with</label>
        <Select
          id="read-by"
          value={by}
          onChange={setBy}
          options={Object.entries(WAYS).map(([value, label]) => ({ value, label }))}
        />
      </div>
      {by === "light" ? (
        <Segmented
          aria-label="Light comes through"
          value={light}
          onChange={setLight}
          options={[
            { value: "yes", label: "light comes through" },
            { value: "no", label: "it stays dark" },
          ]}
        />
      ) : (
        <QuantityField
          label="Wall"
          kind="m"
          value={wallM}
          onChange={setWallM}
          onUnreadable={setBad}
        />
      )}
      <div className="field">
        <label htmlFor="read-place">Place in words</label>
        <Input
          id="read-place"
          value={words}
          maxLength={120}
          placeholder={place ? "named by itself" : ""}
          onChange={(event) => setWords(event.target.value)}
        />
      </div>
      <Button
        type="primary"
        htmlType="submit"
        disabled={bad || (!place && words === "")}
        loading={add.isPending}
      >
        Save the reading
      </Button>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}

function Table({ pour, readings }: { pour: string; readings: readonly Reading[] }) {
  const system = useUnits((state) => state.system);
  const remove = useRemoveReading(pour);
  const unit = unitOf("m", system);
  if (readings.length === 0) return <p className="faint">Nothing read yet.</p>;
  const length = (metres: number | null) => (metres === null ? "" : number(metres, "m", system));
  return (
    <>
      <table className="beside">
        <thead>
          <tr>
            <td />
            <th scope="col">Place</th>
            <th scope="col">Read, {unit}</th>
            <th scope="col">Simulated</th>
            <th scope="col">Read with</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {readings.map((one, at) => (
            <tr key={one.id}>
              <th scope="row">{at + 1}</th>
              <td>{one.place}</td>
              <td>
                <b>{one.by === "light" ? (one.light ? "light" : "dark") : length(one.wall_m)}</b>
              </td>
              <td>{length(one.simulated_m)}</td>
              <td>{WAYS[one.by]}</td>
              <td>
                <Button
                  size="small"
                  onClick={() => remove.mutate(one.id)}
                  aria-label={`Remove reading ${at + 1}`}
                >
                  Remove
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {remove.error && <Failed error={remove.error} />}
    </>
  );
}

function Viscosity({ pour, known }: { pour: string; known: Readings }) {
  const system = useUnits((state) => state.system);
  const fit = useFitViscosity(pour);
  const asked = useQuery({ ...jobQuery(fit.data?.id ?? ""), enabled: fit.data !== undefined });
  const job = asked.data ?? fit.data;
  useWhenDone(job, ["readings"], () => undefined);
  if (!known.can_fit) return null;
  return (
    <div>
      {known.viscosity !== null && (
        <p>
          By these readings the resin was <b>{quantity(known.viscosity, "share", system)}</b> as
          viscous as its data sheet says: an estimate, pooled with your other casts.
        </p>
      )}
      {job && job.status !== "done" && <JobProgress job={job} untitled />}
      <Button onClick={() => fit.mutate()} loading={fit.isPending}>
        Fit the viscosity to these readings
      </Button>
      {fit.error && <Failed error={fit.error} />}
    </div>
  );
}

function Files({ pour }: { pour: string }) {
  const take = useImportReadings(pour);
  return (
    <div className="cast-panel">
      <a href={`/api/v1/pours/${pour}/readings.csv`} download>
        Readings as CSV
      </a>
      <FileButton accept=".csv,text/csv" busy={take.isPending} onFile={(file) => take.mutate(file)}>
        Import readings (CSV)
      </FileButton>
      {take.error && <Failed error={take.error} />}
    </div>
  );
}

function Offcuts({ pour }: { pour: Pour }) {
  const system = useUnits((state) => state.system);
  const weigh = useWeighOffcuts(pour.id);
  const [kg, setKg] = useState(pour.offcuts_kg ?? 0);
  const [bad, setBad] = useState(false);
  return (
    <form
      className="cast-panel"
      aria-label="Offcuts"
      onSubmit={(event) => {
        event.preventDefault();
        weigh.mutate(kg > 0 ? kg : null);
      }}
    >
      <QuantityField
        label="Cut away before the cast was weighed"
        kind="kg"
        value={kg}
        onChange={setKg}
        onUnreadable={setBad}
      />
      <Button
        htmlType="submit"
        disabled={bad || kg === (pour.offcuts_kg ?? 0)}
        loading={weigh.isPending}
      >
        Save
      </Button>
      {pour.offcuts_kg !== null && (
        <span className="faint">
          With it the cast weighed {carried(pour.comparison.cast_kg ?? 0, system)}.
        </span>
      )}
      {weigh.error && <Failed error={weigh.error} />}
    </form>
  );
}
