import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Cure, CureQuestion, Plan, SheetQuestion } from "../../api/client";
import { Dialog } from "../../shared/Dialog";
import { duration, quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { CureCurves } from "./CureCurves";
import { cureQuery } from "./queries";

interface Properties {
  open: boolean;
  plan: Plan;
  question: SheetQuestion;
  onClose: () => void;
}

/** The largest coat in its cup and on the mould: curves, peaks, and what a little changes. */
export function CureDrawer({ open, plan, question, onClose }: Properties) {
  const [puddle, setPuddle] = useState(0.01);
  const [oven, setOven] = useState(323.15);
  const { wish } = question;
  const largest = plan.coats[plan.largest.number - 1];
  const asked: CureQuestion = {
    material_id: question.material_id,
    mass_kg: plan.largest.cup_kg,
    film_m: largest?.wall_m ?? plan.planned_wall_m,
    room_temperature_k: wish.room_temperature_k,
    mould_temperature_k: wish.mould_temperature_k ?? null,
    parts_temperature_k: wish.parts_temperature_k ?? null,
    catalyst: wish.catalyst ?? null,
    time_factor: wish.time_factor ?? 1,
    puddle_m: puddle,
    post_cure_k: oven,
  };
  const cure = useQuery({ ...cureQuery(asked), enabled: open });
  return (
    <Dialog side title="How it cures" width={700} open={open} onClose={onClose}>
      {cure.isLoading && <Loading what="the cure" />}
      {cure.error && <Failed error={cure.error} />}
      {cure.data && (
        <>
          <CureCurves cure={cure.data} />
          <Peaks cure={cure.data} />
          <TooHot cure={cure.data} />
          <div className="asked-more">
            <QuantityField
              label="A puddle this deep"
              kind="m"
              value={puddle}
              onChange={setPuddle}
            />
            <QuantityField label="Afterwards kept at" kind="K" value={oven} onChange={setOven} />
          </div>
          <Changes cure={cure.data} />
          <p className="faint">
            An estimate from the data sheet and what is typical of its class: try a small cup first.
          </p>
        </>
      )}
    </Dialog>
  );
}

function Peaks({ cure }: { cure: Cure }) {
  const system = useUnits((state) => state.system);
  const rows: [string, string][] = [
    ["can be worked in its cup", duration(cure.working_time_s)],
    ["gels in the cup", duration(cure.gel_cup_s)],
    ["gels as a film on the mould", duration(cure.gel_film_s)],
    ["the cup gets", quantity(cure.peak_cup_k, "K", system)],
    ["the film gets", quantity(cure.peak_film_k, "K", system)],
    ["a puddle gets", quantity(cure.peak_puddle_k, "K", system)],
    ["full strength after demoulding, kept so warm", duration(cure.post_cure_s)],
  ];
  return (
    <dl className="totals">
      {rows.map(([label, shown]) => (
        <div key={label}>
          <dt>{label}</dt>
          <dd>
            <b>{shown}</b>
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** How long a full cup may stand, and how deep a puddle may lie. */
function TooHot({ cure }: { cure: Cure }) {
  const system = useUnits((state) => state.system);
  const { passed, puddle } = cure;
  if (passed.length === 0 && !puddle) return null;
  return (
    <section aria-label="When it gets too hot">
      <h3>When it gets too hot</h3>
      <ul className="too-hot">
        {passed.map(({ limit, after_s }) => (
          <li key={limit.danger}>
            A cup left standing passes <b>{quantity(limit.temperature_k, "K", system)}</b> after{" "}
            <b>{duration(after_s)}</b>: {limit.what}.
          </li>
        ))}
        {puddle && (
          <li>
            A puddle deeper than <b>{quantity(puddle.depth_m, "m", system)}</b> passes{" "}
            {quantity(puddle.limit.temperature_k, "K", system)}: keep it moving, and pour out what
            collects.
          </li>
        )}
      </ul>
    </section>
  );
}

/** What two degrees and ten grams change. */
function Changes({ cure }: { cure: Cure }) {
  const { warmer, cooler, more, less } = cure.sensitivity;
  const rows = [
    { name: "2\u00a0°C warmer", shift: warmer },
    { name: "2\u00a0°C cooler", shift: cooler },
    { name: "10\u00a0g more in the cup", shift: more },
    { name: "10\u00a0g less in the cup", shift: less },
  ];
  return (
    <table className="coats">
      <caption>What a little changes</caption>
      <thead>
        <tr>
          <th scope="col">If it is</th>
          <th scope="col">Working time</th>
          <th scope="col">Film gels</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ name, shift }) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td>{later(shift.working_time_s)}</td>
            <td>{later(shift.gel_film_s)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function later(seconds: number): string {
  if (Math.abs(seconds) < 0.5) return "the same";
  return `${duration(Math.abs(seconds))} ${seconds > 0 ? "later" : "earlier"}`;
}
