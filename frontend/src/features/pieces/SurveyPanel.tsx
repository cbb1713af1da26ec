import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Radio } from "antd";
import { useState } from "react";

import {
  ProblemError,
  type Mark,
  type Piece,
  type Survey,
  type SurveyWish,
} from "../../api/client";
import { bound, number, quantity, unitOf, type UnitSystem, withUnit } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { isOpen, jobQuery, useWhenDone } from "../jobs/queries";
import { SURVEYED, useSurveyAgain, wishWith } from "./queries";

/** What the next press on the piece says of the place. */
export type Pen = Pick<Mark, "role" | "radius_m">;

const ROLES: Record<Mark["role"], string> = {
  "cut-away": "cast, then cut away",
  "left-out": "no casting face",
  counted: "casting face",
};

/** What was found out about the face. */
export function FoundPanel({ survey }: { survey: Survey }) {
  const system = useUnits((state) => state.system);
  return (
    <section className="card" aria-label="What was found">
      <h2>What was found</h2>
      <p>{bound(survey.skin.said)}</p>
      {survey.repairs.map((one) => (
        <p key={one.kind}>{bound(one.said)}</p>
      ))}
      {survey.narrow.slice(0, 4).map((one) => (
        <p key={one.at_m.join()} className="due">
          {quantity(one.width_m, "m", system)} wide, {quantity(one.volume_m3, "m3", system)}: with a
          wall of 3&nbsp;mm it fills solid.
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
        {survey.waste_area_m2 > 0 && (
          <div>
            <dt>cast, then cut away</dt>
            <dd>{quantity(survey.waste_area_m2, "m2", system)}</dd>
          </div>
        )}
        {Object.entries(survey.shell_volume_m3).map(([wall, volume]) => (
          <div key={wall}>
            <dt>a wall of {quantity(Number(wall), "m", system)}</dt>
            <dd>{quantity(volume, "m3", system)}</dd>
          </div>
        ))}
        {Object.entries(survey.centre_of_mass_m ?? {})
          .slice(1, 2)
          .map(([wall, centre]) => (
            <div key={wall}>
              <dt>balances at</dt>
              <dd>
                {withUnit(
                  centre.map((one) => number(one, "m", system)).join(", "),
                  unitOf("m", system),
                )}
              </dd>
            </div>
          ))}
      </dl>
    </section>
  );
}

interface FaceProperties {
  piece: Piece;
  marks: readonly Mark[];
  onMarks: (marks: readonly Mark[]) => void;
  pen: Pen | null;
  onPen: (pen: Pen | null) => void;
}

/** Which faces are cast: what a person knows better than the search, and what is built on. */
export function FacePanel({ piece, marks, onMarks, pen, onPen }: FaceProperties) {
  const system = useUnits((state) => state.system);
  const again = useSurveyAgain(piece.id);
  const asked = useQuery({ ...jobQuery(again.data?.id ?? ""), enabled: again.data !== undefined });
  const job = asked.data ?? again.data;
  useWhenDone(job, SURVEYED, () => undefined);
  const kept = piece.wish;
  const lowest = piece.measures.bounds_m[0]?.[2] ?? 0;
  const [skin, setSkin] = useState(kept?.skin ?? "unasked");
  const [skirt, setSkirt] = useState(kept?.skirt_m ?? 0);
  const [ledge, setLedge] = useState(kept?.ledge_m ?? 0);
  const [cut, setCut] = useState(kept?.rim_z_m != null);
  const [rim, setRim] = useState(kept?.rim_z_m ?? lowest);
  const [mend, setMend] = useState(kept?.mend_holes ?? true);
  const [under, setUnder] = useState(kept?.close_under_m ?? 0);
  const [closed, setClosed] = useState(kept?.close_holes ?? false);
  const [unreadable, setUnreadable] = useState(false);
  const problems = again.error instanceof ProblemError ? again.error.fields : {};
  const refused = job?.status === "refused" && job.field ? { [job.field]: job.said } : {};
  const wrong: Readonly<Record<string, string>> = { ...problems, ...refused };
  const field = { onUnreadable: setUnreadable, kind: "m" } as const;

  return (
    <section className="card" aria-label="Which faces are cast?">
      <h2>Which faces are cast?</h2>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          again.mutate({
            version: piece.version,
            wish: wishWith(piece, {
              skin,
              skirt_m: skirt,
              ledge_m: ledge,
              rim_z_m: cut ? rim : null,
              mend_holes: mend,
              close_holes: closed,
              close_under_m: under,
              marks: [...marks],
            }),
          });
        }}
      >
        <Radio.Group
          aria-label="Casting face"
          value={skin}
          onChange={(event) => setSkin(event.target.value as SurveyWish["skin"])}
        >
          <Radio value="unasked">as found</Radio>
          <Radio value="outer">outer skin alone</Radio>
          <Radio value="all">every face</Radio>
        </Radio.Group>
        <MarkList marks={marks} onMarks={onMarks} system={system} problem={wrong.marks} />
        <PenChoice pen={pen} onPen={onPen} />
        <Checkbox checked={mend} onChange={(event) => setMend(event.target.checked)}>
          Tiny holes are mended
        </Checkbox>
        <Checkbox checked={closed} onChange={(event) => setClosed(event.target.checked)}>
          Smaller holes are closed, cast over and cut out
        </Checkbox>
        {!closed && (
          <QuantityField
            {...field}
            label="Holes narrower than this are closed"
            value={under}
            onChange={setUnder}
          />
        )}
        <Checkbox checked={cut} onChange={(event) => setCut(event.target.checked)}>
          Cut off below a rim plane
        </Checkbox>
        {cut && (
          <QuantityField
            {...field}
            label="Height of the rim plane, z"
            value={rim}
            onChange={setRim}
            problem={wrong.rim}
          />
        )}
        <QuantityField
          {...field}
          label="Skirt past the rim, cast and cut away"
          value={skirt}
          onChange={setSkirt}
          problem={wrong.skirt}
        />
        <QuantityField
          {...field}
          label="Ledge inwards at its end, likewise"
          value={ledge}
          onChange={setLedge}
          problem={wrong.ledge}
        />
        {again.error && <Failed error={again.error} />}
        {job && job.status !== "done" && <JobProgress job={job} />}
        <Button
          htmlType="submit"
          loading={again.isPending}
          disabled={unreadable || (job !== undefined && isOpen(job))}
        >
          Measure again
        </Button>
      </form>
    </section>
  );
}

interface MarkListProperties {
  marks: readonly Mark[];
  onMarks: (marks: readonly Mark[]) => void;
  system: UnitSystem;
  problem: string | undefined;
}

function MarkList({ marks, onMarks, system, problem }: MarkListProperties) {
  return (
    <>
      {marks.length > 0 && (
        <ol className="marks" aria-label="Marked places">
          {marks.map((mark, at) => (
            <li key={at}>
              <span>
                {ROLES[mark.role]}, {quantity(mark.radius_m, "m", system)} round a place{" "}
                {quantity(mark.at_m[2] ?? 0, "m", system)} high
              </span>
              <Button
                size="small"
                aria-label={`Remove mark ${at + 1}`}
                onClick={() => onMarks(marks.filter((_, index) => index !== at))}
              >
                ×
              </Button>
            </li>
          ))}
        </ol>
      )}
      {problem && <p className="hint wrong">{problem}</p>}
    </>
  );
}

/** What the next press on the piece means; off until a person wants it. */
function PenChoice({ pen, onPen }: { pen: Pen | null; onPen: (pen: Pen | null) => void }) {
  if (!pen) {
    return (
      <Button onClick={() => onPen({ role: "cut-away", radius_m: 0.02 })}>
        Mark eyes, visor or a wrong skin
      </Button>
    );
  }
  return (
    <fieldset className="pen">
      <legend>Press on the piece above; it is</legend>
      <Radio.Group
        aria-label="What the marked place is"
        value={pen.role}
        onChange={(event) => onPen({ ...pen, role: event.target.value as Mark["role"] })}
        options={Object.entries(ROLES).map(([value, label]) => ({ value, label }))}
      />
      <QuantityField
        label="So far round it"
        kind="m"
        value={pen.radius_m}
        onChange={(radius_m) => onPen({ ...pen, radius_m })}
      />
      <Button size="small" onClick={() => onPen(null)}>
        No more marks
      </Button>
    </fieldset>
  );
}
