import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { Link } from "react-router";

import type { MouldPlan } from "../../api/client";
import { clockTime, day, number, bound, withUnit } from "../../shared/format";
import { fieldOf } from "../../shared/when";
import { workshopQuery } from "../../shared/standing";
import { handsTime } from "./when";

interface Properties {
  plan: MouldPlan;
  begins: Date;
  onBegins: (at: Date) => void;
}

/** The build on the clock, day by day, within working hours. */
export function ClockPanel({ plan, begins, onBegins }: Properties) {
  const equipment = useQuery(workshopQuery()).data?.equipment;
  return (
    <section className="card rim" aria-label="Build clock">
      <h2>Build clock</h2>
      <div className="field">
        <label htmlFor="build-begins">Begin not before</label>
        <Input
          id="build-begins"
          type="datetime-local"
          value={fieldOf(begins)}
          onChange={(event) => {
            const at = new Date(event.target.value);
            if (!Number.isNaN(at.getTime())) onBegins(at);
          }}
        />
        {equipment && (
          <div className="hint">
            Worked from {number(equipment.opens_h ?? 0, "hour", "metric")} to{" "}
            {withUnit(number(equipment.closes_h ?? 0, "hour", "metric"), "h")};{" "}
            <Link to="/workshop">change the hours</Link>.
          </div>
        )}
      </div>
      <table className="coats stacks">
        <thead>
          <tr>
            <th scope="col">Begin</th>
            <th scope="col">Step</th>
            <th scope="col">Hands</th>
            <th scope="col">At the latest</th>
            <th scope="col">Meanwhile</th>
          </tr>
        </thead>
        <tbody>
          {plan.steps.map((step, at) => {
            const before = plan.steps[at - 1];
            const fresh = !before || day(before.starts_at) !== day(step.starts_at);
            return (
              <tr key={step.id} className={step.late ? "due" : ""}>
                <td>
                  {fresh && <div className="faint">{day(step.starts_at)}</div>}
                  <b>{clockTime(step.starts_at)}</b>
                </td>
                <th scope="row">
                  {step.id === "patterns" ? (
                    <Link to="patterns">{bound(step.title)}</Link>
                  ) : (
                    bound(step.title)
                  )}
                </th>
                <td data-label="Hands">{handsTime(step.hands_s)}</td>
                <td data-label="At the latest">
                  {step.latest_at ? clockTime(step.latest_at) : "–"}
                  {step.late && <b> missed</b>}
                </td>
                <td className="faint whole" data-label="Meanwhile">
                  {bound(step.meanwhile)}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
