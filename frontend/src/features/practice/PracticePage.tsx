import { useQuery } from "@tanstack/react-query";
import { Button, Radio, Select } from "antd";
import { lazy, Suspense, useState } from "react";

import type { PieceSummary, Try } from "../../api/client";
import { Failed, Loading, Nothing } from "../../shared/states";
import { MaterialSelect } from "../shelf/MaterialSelect";
import { materialListQuery } from "../shelf/queries";
import { piecesQuery } from "../pieces/queries";
import { LastTries } from "./LastTries";
import { exercisesQuery, useBegin } from "./queries";
import { useSense, type HeldBy } from "./useSense";
import { bound } from "../../shared/format";

const InHand = lazy(() => import("./InHand"));

const SPEEDS = [
  { value: 1, label: "as in life" },
  { value: 2, label: "twice as fast" },
  { value: 4, label: "four times as fast" },
];

/** The practice tray: a mould on the screen, rolled against the clock. */
export function PracticePage() {
  const pieces = useQuery(piecesQuery());
  const resins = useQuery(materialListQuery(""));
  const exercises = useQuery(exercisesQuery());
  const [pieceId, setPieceId] = useState<string | null>(null);
  const [materialId, setMaterialId] = useState<string | null>(null);
  const [exercise, setExercise] = useState("free");
  const [speed, setSpeed] = useState(1);
  const [tray, setTray] = useState<Try | null>(null);
  const begin = useBegin();
  const sense = useSense();
  const failed = [pieces, resins, exercises].find((one) => one.error);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  if (!pieces.data || !resins.data || !exercises.data) return <Loading what="the tray" />;
  const piece = pieceId ?? deepest(pieces.data) ?? "";
  const material = materialId ?? usual(resins.data.materials) ?? "";
  const asked = exercises.data.exercises.find((one) => one.key === exercise);
  const heldBy: { value: HeldBy; label: string }[] = [
    { value: "hands", label: "mouse, finger or keys" },
    ...(sense.canTilt ? [{ value: "tablet" as const, label: "tilting this tablet" }] : []),
    ...(sense.sensor ? [{ value: "sensor" as const, label: sense.sensor }] : []),
  ];
  return (
    <section className="page practice">
      <header>
        <h1>Practice tray</h1>
        <p className="faint">Nothing here touches your stock or your log.</p>
      </header>
      {pieces.data.length === 0 && (
        <Nothing>The tray needs a piece: upload one, or measure one by tape.</Nothing>
      )}
      {piece && (
        <div className="practice-columns">
          <form
            className="asked"
            onSubmit={(event) => {
              event.preventDefault();
              begin.mutate(
                {
                  piece_id: piece,
                  material_id: material,
                  exercise: exercise as Try["exercise"],
                },
                { onSuccess: setTray },
              );
            }}
          >
            <fieldset>
              <legend>Exercise</legend>
              <Radio.Group
                className="stack"
                aria-label="Exercise"
                value={exercise}
                onChange={(event) => setExercise(String(event.target.value))}
                options={exercises.data.exercises.map((one) => ({
                  value: one.key,
                  label: one.name,
                }))}
              />
              <p className="faint">{bound(asked?.says ?? "")}</p>
            </fieldset>
            <div className="field">
              <label htmlFor="tray-piece">Piece</label>
              <Select
                id="tray-piece"
                value={piece}
                onChange={setPieceId}
                options={pieces.data.map((one) => ({ value: one.id, label: one.name }))}
              />
            </div>
            <div className="field">
              <label htmlFor="tray-resin">Resin</label>
              <MaterialSelect id="tray-resin" value={material} onChange={setMaterialId} />
            </div>
            <div className="field">
              <label htmlFor="tray-speed">Time runs</label>
              <Select id="tray-speed" value={speed} onChange={setSpeed} options={SPEEDS} />
            </div>
            <div className="field">
              <label htmlFor="tray-held">Held by</label>
              <Select
                id="tray-held"
                value={sense.by}
                onChange={(next) => void sense.choose(next)}
                options={heldBy}
              />
            </div>
            <Button type="primary" size="large" htmlType="submit" loading={begin.isPending}>
              {tray ? "Begin again" : "Begin: pour it in"}
            </Button>
            {begin.error && <Failed error={begin.error} />}
          </form>
          <div>
            {tray ? (
              <Suspense fallback={<Loading what="the tray" />}>
                <InHand
                  key={tray.id}
                  tray={tray}
                  speed={speed}
                  sense={sense.sense}
                  isSensed={sense.by !== "hands"}
                  piece={pieces.data.find((one) => one.id === piece)?.name ?? ""}
                />
              </Suspense>
            ) : (
              <HowTo />
            )}
            <LastTries exercises={exercises.data.exercises} />
          </div>
        </div>
      )}
    </section>
  );
}

/** The piece one begins with: what holds most is easiest to roll. */
function deepest(pieces: readonly PieceSummary[]): string | undefined {
  return [...pieces].sort((one, other) => other.volume_m3 - one.volume_m3)[0]?.id;
}

/** The resin one begins with: a fast one, so that a try is over in minutes. */
function usual(resins: readonly { id: string; name: string }[]): string | undefined {
  return (resins.find((one) => one.name.startsWith("Fast")) ?? resins[0])?.id;
}

function HowTo() {
  return (
    <div className="practice-how">
      <p className="lead">
        One coat of resin is poured into the mould. Hold it, tilt it and turn it until the resin
        stops flowing; then see the wall that it left.
      </p>
      <dl className="keys">
        <div>
          <dt>
            <kbd>↑</kbd> <kbd>↓</kbd>
          </dt>
          <dd>tilt it further over, and back; or drag up and down</dd>
        </div>
        <div>
          <dt>
            <kbd>←</kbd> <kbd>→</kbd>
          </dt>
          <dd>turn it round; or drag across</dd>
        </div>
      </dl>
      <p className="faint">Yellow is thick, dark blue is bare. What runs over the rim is gone.</p>
    </div>
  );
}
