import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState, type ReactNode } from "react";

import type { Amount, Coat, Plan, SheetQuestion } from "../../api/client";
import { Findings } from "../../shared/Findings";
import {
  bound,
  carried,
  countdown,
  duration,
  money,
  number,
  quantity,
  unitOf,
  weighed,
  weighedNumber,
  counted,
} from "../../shared/format";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../../shared/standing";
import { CureDrawer } from "./CureDrawer";
import { LIMITS, LimitBars } from "./LimitBars";
import { SchoolsDrawer } from "./SchoolsDrawer";
import { WhyDrawer } from "./WhyDrawer";

interface Properties {
  plan: Plan;
  question: SheetQuestion;
  onApply: (field: string, value: number | string, said: string) => void;
  /** What a press changed, and how it is taken back. */
  undo: ReactNode;
  /** What the plan stands on. */
  standsOn: ReactNode;
}

/** The right column: what to weigh, how often, when; every figure can be asked why. */
export function SheetColumn({ plan, question, onApply, undo, standsOn }: Properties) {
  const [asked, setAsked] = useState<string | null>(null);
  const [beside, setBeside] = useState<"schools" | "cure" | null>(null);
  const opened = (id: string) => plan.figures.find((one) => one.key === id);
  const amount = asked === null ? null : (opened(asked) ?? null);
  const figure: FigureOf = (id, children, coat) => {
    // Coats whose times differ from the largest one's are opened on their own.
    const own = coat !== undefined && opened(`${id}:${coat}`) ? `${id}:${coat}` : id;
    return (
      <Figure amount={opened(own)} onAsk={() => setAsked(own)}>
        {children}
      </Figure>
    );
  };
  // What stops the plan stands above it; the rest follows the rows.
  const grave = plan.findings.filter((one) => one.severity === "stop");
  const others = plan.findings.filter((one) => one.severity !== "stop");
  return (
    <aside className="sheet-column" aria-label="The sheet">
      {standsOn}
      {undo}
      {!plan.fits && <p className="rim-verdict wrong">This plan does not fit</p>}
      {grave.length > 0 && <Findings findings={grave} none="" onApply={onApply} />}
      <Headline plan={plan} figure={figure} />
      <Totals plan={plan} figure={figure} />
      <CoatTable plan={plan} figure={figure} />
      <PremixNote plan={plan} />
      <p className="beside-buttons">
        <Button size="small" onClick={() => setBeside("schools")}>
          Other ways to divide it
        </Button>{" "}
        {!onePart(plan) && (
          <Button size="small" onClick={() => setBeside("cure")}>
            How it cures
          </Button>
        )}
      </p>
      <LimitBars plan={plan} />
      <h2>Findings</h2>
      <Findings findings={others} none="No problems found." onApply={onApply} />
      <h2>Take care</h2>
      <ul className="cautions">
        {plan.operations.map((one) => (
          <li key={one.operation}>
            <b>{one.title}:</b> {bound(one.sentences.join(" "))}
          </li>
        ))}
        {plan.cautions.map((caution) => (
          <li key={caution}>{bound(caution)}</li>
        ))}
      </ul>
      <WhyDrawer amount={amount} onClose={() => setAsked(null)} />
      <SchoolsDrawer
        open={beside === "schools"}
        question={question}
        onClose={() => setBeside(null)}
        onTake={(key, name) => {
          setBeside(null);
          onApply("school", key, name);
        }}
      />
      <CureDrawer
        open={beside === "cure"}
        plan={plan}
        question={question}
        onClose={() => setBeside(null)}
      />
    </aside>
  );
}

type FigureOf = (id: string, children: ReactNode, coat?: number) => ReactNode;

interface FigureProperties {
  amount: Amount | undefined;
  onAsk: () => void;
  children: ReactNode;
}

function Figure({ amount, onAsk, children }: FigureProperties) {
  return (
    <button type="button" className="figure" onClick={onAsk} title={`Why? ${amount?.name ?? ""}`}>
      {children}
    </button>
  );
}

/** What sets by cooling has one part, and nothing is mixed. */
const onePart = (plan: Plan) => plan.measured_parts.length === 1;

/** A charge as it is measured out: grams, or millilitres for a resin by volume. */
export function Parts({ coat, plan }: { coat: Coat; plan: Plan }) {
  const system = useUnits((state) => state.system);
  const byVolume = plan.ratio_basis === "volume";
  const parts = byVolume ? coat.parts_m3 : coat.parts_kg;
  const kind = byVolume ? "m3" : "kg";
  const shown = (amount: number) =>
    byVolume ? number(amount, "m3", system) : weighedNumber(amount, plan.scale_step_kg);
  return (
    <>
      {coat.kind === "clay" ? "clay" : "A"} <b data-part="A">{shown(parts.A)}</b>
      {coat.kind !== "clay" && (
        <>
          {" "}
          + B&nbsp;<b data-part="B">{shown(parts.B)}</b>
        </>
      )}
      &nbsp;{unitOf(kind, system)}
    </>
  );
}

function Headline({ plan, figure }: { plan: Plan; figure: FigureOf }) {
  const system = useUnits((state) => state.system);
  const first = plan.coats[plan.largest.number - 1];
  if (!first) return null;
  const alike = plan.coats.every((one) => one.charge_kg === first.charge_kg);
  const marks = first.cup_marks_m;
  const full = marks["A+B"];
  return (
    <div className="headline">
      {figure(
        "coats",
        <span className="coats-count">
          <b data-figure="coats">{plan.coats.length}</b>&nbsp;
          {plan.coats.length === 1 ? "coat" : "coats"}
        </span>,
      )}
      {figure(
        "charge",
        <span className="parts">
          {!alike && <small>the largest </small>}
          <Parts coat={first} plan={plan} />
        </span>,
      )}
      <p className="faint">{plan.school.name}</p>
      {marks.A != null && full != null && (
        <p className="faint">
          In your cup: A to {quantity(marks.A, "m", system)}, B up to {quantity(full, "m", system)}{" "}
          above the bottom.
        </p>
      )}
    </div>
  );
}

function Totals({ plan, figure }: { plan: Plan; figure: FigureOf }) {
  const system = useUnits((state) => state.system);
  const workshop = useQuery(workshopQuery());
  const [low = 0, high = 0] = plan.total_charge_band_kg;
  const rows: [string, string, ReactNode, (string | undefined)?][] = [
    [
      "total_charge",
      onePart(plan) ? "Clay to melt" : "Resin to mix",
      quantity(plan.total_charge_kg, "kg", system),
      `${number(low, "kg", system)} to ${number(high, "kg", system)}`,
    ],
    [
      "cast_weight",
      "Cast weight",
      carried(plan.cast_kg, system),
      plan.trimmed_kg < plan.cast_kg ? `${carried(plan.trimmed_kg, system)} trimmed` : undefined,
    ],
    ["hands_on", "Hands on", duration(plan.hands_on_s)],
    ["out_after", "Comes out after", duration(plan.out_after_s)],
    [
      "cost",
      onePart(plan) ? "Clay cost" : "Resin cost",
      money(plan.cost, workshop.data?.currency ?? ""),
    ],
  ];
  return (
    <dl className="totals">
      {rows.map(([id, label, shown, band]) => (
        <div key={id}>
          <dt>{label}</dt>
          <dd data-figure={id}>
            {figure(id, shown)}
            {band && <small>{band}</small>}
          </dd>
        </div>
      ))}
    </dl>
  );
}

function CoatTable({ plan, figure }: { plan: Plan; figure: FigureOf }) {
  const last = plan.coats.length;
  return (
    <table className="coats">
      <caption>
        Minutes and seconds from when {onePart(plan) ? "the pot comes off the heat" : "A meets B"}
      </caption>
      <thead>
        <tr>
          <th scope="col">Coat</th>
          <th scope="col">Measure</th>
          <th scope="col">Pour before</th>
          <th scope="col">Roll until</th>
          <th scope="col">Next coat</th>
        </tr>
      </thead>
      <tbody>
        {plan.coats.map((coat) => (
          <tr key={coat.number}>
            <th scope="row">{coat.number}</th>
            <td>
              <Parts coat={coat} plan={plan} />
              <Added coat={coat} plan={plan} />
              {!coat.fits && <div className="due">not {LIMITS[coat.binding_limit]}</div>}
            </td>
            <td>{figure("pour_by", countdown(coat.pour_by_s), coat.number)}</td>
            <td>{figure("roll_until", countdown(coat.roll_until_s), coat.number)}</td>
            <td>
              {coat.number === last ? (
                figure("demould", <>out after {countdown(plan.demould_s)}</>, coat.number)
              ) : (
                <>
                  {figure("next_from", countdown(coat.next_from_s), coat.number)} to{" "}
                  {figure("next_until", countdown(coat.next_until_s), coat.number)}
                </>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What goes into a cup beside A and B. */
function Added({ coat, plan }: { coat: Coat; plan: Plan }) {
  const words = { thickener: "thickener", thinner: "thinner", powder: "metal powder" } as const;
  const added = (Object.keys(words) as (keyof typeof words)[]).filter(
    (one) => coat.added_kg[one] > 0,
  );
  return (
    <>
      {coat.kind === "paste" && (
        <div className="faint">
          a paste, spread {coat.places.length > 0 ? "at its places" : "where it is thin"}
        </div>
      )}
      {coat.places.map((place) => (
        <div key={place.name}>
          {place.name} <b>{weighed(place.mixed_kg, plan.scale_step_kg)}</b>
        </div>
      ))}
      {added.map((one) => (
        <div key={one}>
          + {words[one]} <b>{weighed(coat.added_kg[one], plan.scale_step_kg)}</b>
        </div>
      ))}
    </>
  );
}

/** Part B stirred once for all coats, so that each has the same colour. */
function PremixNote({ plan }: { plan: Plan }) {
  const { premix } = plan;
  if (!premix) return null;
  return (
    <p className="premix">
      First stir all of B: <b>{weighed(premix.b_kg, plan.scale_step_kg)}</b> of B
      {premix.tint_kg > 0 && (
        <>
          {" "}
          + <b>{weighed(premix.tint_kg, plan.scale_step_kg)}</b> tint
        </>
      )}
      {premix.filler_kg > 0 && (
        <>
          {" "}
          + <b>{weighed(premix.filler_kg, plan.scale_step_kg)}</b> filler
        </>
      )}
      . The B above is taken from it; {counted(Number(premix.parts_b.toPrecision(4)), "part")} by
      weight of it go with the sheet&apos;s parts of A.
    </p>
  );
}
