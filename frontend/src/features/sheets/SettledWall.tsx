import { Button } from "antd";

import type { Job, Plan, SheetQuestion, WallRun } from "../../api/client";
import { quantity, counted } from "../../shared/format";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { useSeen } from "../walls/seen";
import { WallScene } from "../walls/WallScene";
import { CoatChoices } from "./CoatChoices";

const WHOLE = { coat: 0, cut: 1, playing: false, share: 0 };

interface Properties {
  plan: Plan;
  run: WallRun;
  question: SheetQuestion;
  onApply: (field: string, value: number | string | null, said: string) => void;
}

/** The wall that the coats leave, first roughly; then thin places, mends and other coats. */
export function SettledWall({ plan, run, question, onApply }: Properties) {
  const system = useUnits((state) => state.system);
  const look = useSeen((state) => state.look);
  const length = (metres: number) => quantity(metres, "m", system);
  const { wall } = run;
  const more = plan.coats.length + 1;
  const isSettled = plan.stands_on === "settled";
  return (
    <div className="settled">
      <WallScene key={run.id} run={run} look={WHOLE} topM={run.scale_m} />
      <p className="settled-said">
        {!isSettled && "A first look, of the estimate’s coats: "}
        <b>{length(wall.p05_m)}</b> or more on 95&nbsp;% of the face, {length(wall.p01_m)} on
        99&nbsp;%; {length(wall.mean_m)} on average.{" "}
        {wall.lid_kg > 0 && <>{quantity(wall.lid_kg, "kg", system)} stay on the lid, </>}
        {quantity(wall.pool_kg, "kg", system)} in puddles
        {wall.spilt_kg > 1e-4 && <>, {quantity(wall.spilt_kg, "kg", system)} run over the rim</>}.
      </p>
      {isSettled && wall.thin_places.length > 0 && (
        <div className="settled-thin">
          <ol aria-label="Thin places">
            {wall.thin_places.map((one, at) => (
              <li key={at}>
                <button type="button" className="figure" onClick={() => look(one.at_m)}>
                  {one.name}
                </button>
                : {length(one.wall_m)} on {quantity(one.area_m2, "m2", system)}
              </li>
            ))}
          </ol>
          <p>
            About {quantity(wall.paste_kg, "kg", system)} of paste fill them.{" "}
            <Button
              size="small"
              onClick={() =>
                onApply("coats", more, `${counted(more, "coat")} instead of ${more - 1}`)
              }
            >
              Or {more} lighter coats
            </Button>
          </p>
        </div>
      )}
      {isSettled && (
        <CoatChoices
          question={question}
          onTake={(coats, count) =>
            onApply("coats", coats, `${counted(count, "coat")} instead of ${plan.coats.length}`)
          }
        />
      )}
    </div>
  );
}

interface StandsOnProperties {
  plan: Plan;
  job: Job | undefined;
  error: unknown;
  onCancel: () => void;
}

/** What the plan stands on, and how far its simulation is. */
export function StandsOn({ plan, job, error, onCancel }: StandsOnProperties) {
  const system = useUnits((state) => state.system);
  const { low_kg, high_kg } = plan.estimate;
  const grams = (kg: number) => <span>{quantity(kg, "kg", system)}</span>;
  // As high in every state, so that no number moves under the hand.
  if (plan.stands_on === "even")
    return (
      <p className="estimate stands-on">
        Estimate: an even wall; it is not said how the mould is turned.
      </p>
    );
  if (plan.stands_on === "settled")
    return (
      <p className="estimate stands-on">
        Settled: just these coats were simulated. The estimate was {grams(low_kg)} to{" "}
        {grams(high_kg)}.
      </p>
    );
  const isLook = plan.stands_on === "first-look";
  const [low = 0, high = 0] = plan.total_charge_band_kg;
  return (
    <div className="estimate stands-on" role="status">
      {isLook ? "First look" : "Estimate"}: {grams(isLook ? low : low_kg)} to{" "}
      {grams(isLook ? high : high_kg)} to mix.
      {job && job.status !== "done" && <JobProgress job={job} untitled onCancel={onCancel} />}
      {Boolean(error) && <Failed error={error} />}
    </div>
  );
}
