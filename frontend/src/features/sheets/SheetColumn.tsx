import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import type { Coat, Plan, Why } from "../../api/client";
import { Findings } from "../../shared/Findings";
import { carried, countdown, duration, money, number, quantity, unitOf } from "../../shared/format";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../pieces/queries";
import { WhyDrawer } from "./WhyDrawer";

interface Properties {
  plan: Plan;
  onApply: (field: string, value: number) => void;
}

/** The right column: what to weigh, how often, when; every figure can be asked why. */
export function SheetColumn({ plan, onApply }: Properties) {
  const [asked, setAsked] = useState<string | null>(null);
  const why = plan.why.find((one) => one.id === asked) ?? null;
  const figure = (id: string, children: ReactNode) => (
    <Figure why={plan.why.find((one) => one.id === id)} onAsk={() => setAsked(id)}>
      {children}
    </Figure>
  );
  // What stops the plan stands above it; the rest follows the rows.
  const grave = plan.findings.filter((one) => one.severity === "stop");
  const others = plan.findings.filter((one) => one.severity !== "stop");
  return (
    <aside className="sheet-column" aria-label="The sheet">
      <p className="estimate">Estimate: the flow in the mould is not simulated.</p>
      {grave.length > 0 && <Findings findings={grave} none="" onApply={onApply} />}
      <Headline plan={plan} figure={figure} />
      <Totals plan={plan} figure={figure} />
      <CoatTable plan={plan} figure={figure} />
      <h2>Findings</h2>
      <Findings findings={others} none="Nothing speaks against it." onApply={onApply} />
      <h2>Take care</h2>
      <ul className="cautions">
        {plan.operations.map((one) => (
          <li key={one.operation}>
            <b>{one.title}:</b> {one.sentences.join(" ")}
          </li>
        ))}
        {plan.cautions.map((caution) => (
          <li key={caution}>{caution}</li>
        ))}
      </ul>
      <WhyDrawer why={why} onClose={() => setAsked(null)} />
    </aside>
  );
}

type FigureOf = (id: string, children: ReactNode) => ReactNode;

interface FigureProperties {
  why: Why | undefined;
  onAsk: () => void;
  children: ReactNode;
}

function Figure({ why, onAsk, children }: FigureProperties) {
  return (
    <button type="button" className="figure" onClick={onAsk} title={`Why? ${why?.title ?? ""}`}>
      {children}
    </button>
  );
}

/** A charge as it is measured out: grams, or millilitres for a resin by volume. */
export function Parts({ coat, basis }: { coat: Coat; basis: string }) {
  const system = useUnits((state) => state.system);
  const parts = basis === "volume" ? coat.parts_m3 : coat.parts_kg;
  const kind = basis === "volume" ? "m3" : "kg";
  return (
    <>
      A <b data-part="A">{number(parts.A, kind, system)}</b> + B{" "}
      <b data-part="B">{number(parts.B, kind, system)}</b> {unitOf(kind, system)}
    </>
  );
}

function Headline({ plan, figure }: { plan: Plan; figure: FigureOf }) {
  const system = useUnits((state) => state.system);
  const first = plan.coats[0];
  if (!first) return null;
  const marks = first.cup_marks_m;
  const full = marks["A+B"];
  return (
    <div className="headline">
      {figure(
        "coats",
        <span className="coats-count">
          <b data-figure="coats">{plan.coats.length}</b>{" "}
          {plan.coats.length === 1 ? "coat" : "coats"}
        </span>,
      )}
      {figure(
        "charge",
        <span className="parts">
          <Parts coat={first} basis={plan.ratio_basis} />
        </span>,
      )}
      {marks.A != null && full != null && (
        <p className="faint">
          In a 70/95 mm cup: A to {quantity(marks.A, "m", system)}, B up to{" "}
          {quantity(full, "m", system)} above the bottom.
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
      "Resin to mix",
      quantity(plan.total_charge_kg, "kg", system),
      `${number(low, "kg", system)} to ${number(high, "kg", system)}`,
    ],
    [
      "cast_weight",
      "Cast weighs",
      carried(plan.cast_kg, system),
      plan.trimmed_kg < plan.cast_kg ? `${carried(plan.trimmed_kg, system)} trimmed` : undefined,
    ],
    ["hands_on", "Hands on", duration(plan.hands_on_s)],
    ["out_after", "Comes out after", duration(plan.out_after_s)],
    ["cost", "Resin cost", money(plan.cost, workshop.data?.currency ?? "")],
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
      <caption>Minutes and seconds from when A meets B</caption>
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
              <Parts coat={coat} basis={plan.ratio_basis} />
            </td>
            <td>{figure("pour_by", countdown(coat.pour_by_s))}</td>
            <td>{figure("roll_until", countdown(coat.roll_until_s))}</td>
            <td>
              {coat.number === last ? (
                figure("demould", <>out after {countdown(plan.demould_s)}</>)
              ) : (
                <>
                  {figure("next_from", countdown(coat.next_from_s))} to{" "}
                  {figure("next_until", countdown(coat.next_until_s))}
                </>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
