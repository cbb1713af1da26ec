import type { ReactNode } from "react";
import { Link } from "react-router";

import type { MouldPlan } from "../../api/client";
import { carried, duration, quantity, counted, bound, withUnit } from "../../shared/format";
import { handsTime } from "./when";
import { useUnits } from "../../shared/units";

/** Piece and rubber cut upright through the middle, to scale. */
export function SectionPanel({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  const { face_section, rubber_section } = plan.drawing;
  const points = rubber_section.flat();
  const across = points.map((point) => point[0] ?? 0);
  const up = points.map((point) => point[1] ?? 0);
  const [left, right] = [Math.min(...across), Math.max(...across)];
  const [low, high] = [Math.min(0, ...up), Math.max(...up)];
  const margin = 0.04 * Math.max(right - left, high - low);
  return (
    <section className="card" aria-label="Cut through">
      <h2>Cut through</h2>
      <svg
        className="rim-section mould-section"
        role="img"
        aria-label="Piece and rubber cut upright through the middle"
        viewBox={`${left - margin} ${-high - margin} ${right - left + 2 * margin} ${high - low + 2 * margin}`}
      >
        <line className="board" x1={left - margin} x2={right + margin} y1={0} y2={0} />
        <path className="rubber" d={drawn(rubber_section)} />
        <path d={drawn(face_section)} />
      </svg>
      <p className="faint">
        The piece stands on its board; {quantity(plan.wall_m, "m", system)} of rubber round it,
        hollows filled.
      </p>
    </section>
  );
}

function drawn(pieces: readonly (readonly (readonly number[])[])[]): string {
  return pieces
    .map(([from, to]) => `M${from?.[0]} ${-(from?.[1] ?? 0)}L${to?.[0]} ${-(to?.[1] ?? 0)}`)
    .join("");
}

/** How far each ring of the glove has to stretch, against what the rubber allows. */
export function StretchPanel({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  const { stretch } = plan;
  const tallest = Math.max(...stretch.stations.map((one) => one.height_m), 1e-6);
  const most = Math.max(stretch.allowed, stretch.needed, 0.1) * 1.08;
  const step = 100 / stretch.stations.length;
  const lets = stretch.lets_go;
  return (
    <section className="card" aria-label="Does it let go?">
      <h2>Does it let go?</h2>
      <p className={lets ? "rim-verdict" : "rim-verdict wrong"}>
        {lets ? "It peels off uncut" : `Cut it ${quantity(stretch.cut_m, "m", system)} up`}
      </p>
      <svg
        className="girth-bars peel-bars"
        role="img"
        aria-label="Stretch each ring needs, the board below"
        viewBox="0 0 100 100"
        preserveAspectRatio="none"
      >
        {stretch.stations.map((one) => (
          <rect
            key={one.height_m}
            className={one.needed > stretch.allowed ? "over" : ""}
            x={0}
            width={Math.max(0.4, (one.needed / most) * 100)}
            y={100 - (one.height_m / tallest) * (100 - step) - 0.85 * step}
            height={0.7 * step}
          />
        ))}
        <line
          x1={(stretch.allowed / most) * 100}
          x2={(stretch.allowed / most) * 100}
          y1={0}
          y2={100}
        />
      </svg>
      <p>
        Needs {quantity(stretch.needed, "share", system)} at most; the rubber allows{" "}
        {quantity(stretch.allowed, "share", system)} (the line): its stretch at break by a safety of
        three.
      </p>
    </section>
  );
}

/** The same shell of every material, and in other numbers of parts. */
export function ShellsPanel({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  return (
    <section className="card rim" aria-label="Shell">
      <h2>Shell</h2>
      <table className="coats stacks">
        <caption>Of each material, the lightest first</caption>
        <thead>
          <tr>
            <th scope="col">Material</th>
            <th scope="col">Weighs</th>
            <th scope="col">Costs</th>
            <th scope="col">Work</th>
            <th scope="col">Sets in</th>
            <th scope="col">Takes</th>
          </tr>
        </thead>
        <tbody>
          {plan.shells.map((shell) => (
            <tr key={shell.key}>
              <th scope="row">
                {shell.name}
                {shell.bolts_on && <div className="faint">bolts to a machine</div>}
              </th>
              <td data-label="Weighs">{carried(shell.kg, system)}</td>
              <td data-label="Costs">{shell.cost.toFixed(2)}</td>
              <td data-label="Work">{handsTime(shell.hours * 3600)}</td>
              <td data-label="Sets in">{duration(shell.set_s)}</td>
              <td className="faint whole" data-label="Takes">
                {shell.needs.map((need) => `${bound(need.what)}: ${amountOf(need)}`).join("; ")}
                {shell.hazards.map((hazard) => (
                  <div key={hazard} className="due">
                    {hazard}
                  </div>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <table className="beside">
        <caption>Split at the best of all angles</caption>
        <thead>
          <tr>
            <th scope="col">Parts</th>
            <th scope="col">Locked</th>
            <th scope="col">Filler that frees it</th>
          </tr>
        </thead>
        <tbody>
          {plan.splits.map((split) => (
            <tr key={split.parts}>
              <th scope="row">
                {split.parts === 1 ? "one hood" : counted(split.parts, "part")}
                {split.parts === plan.shell.parts && " (taken)"}
              </th>
              <td>{quantity(split.locked_area_m2, "m2", system)}</td>
              <td>{quantity(split.filler_m3, "m3", system)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function amountOf(need: { amount: number; unit: string }): string {
  const amount = Number(need.amount.toPrecision(2));
  return withUnit(amount, amount === 1 ? need.unit.replace(/s$/, "") : need.unit);
}

/** What is lifted and turned. */
export function WeightPanel({ plan, children }: { plan: MouldPlan; children: ReactNode }) {
  const system = useUnits((state) => state.system);
  const { lift, hanging } = plan;
  return (
    <section className="card" aria-label="Lift and turn">
      <h2>Lift and turn</h2>
      {children}
      <p className={lift.alone ? "rim-verdict" : "rim-verdict wrong"}>
        {lift.alone ? "One person may lift it" : "Lift it with two"}
      </p>
      <dl>
        <div>
          <dt>weighs with its charge</dt>
          <dd>{carried(lift.weight_kg, system)}</dd>
        </div>
        <div>
          <dt>one person, this size</dt>
          <dd>up to {carried(lift.limit_kg, system)}</dd>
        </div>
        <div>
          <dt>handles</dt>
          <dd>{plan.handles || "none"}</dd>
        </div>
        <div>
          <dt>
            <Link to="/workshop">your machine</Link> carries
          </dt>
          <dd>
            {carried(hanging.limit_kg, system)}
            {hanging.carried ? "" : ": too heavy"}
          </dd>
        </div>
        <div>
          <dt>unbalance about its upright axis</dt>
          <dd>{hanging.moment_upright_nm.toFixed(2)} N m</dd>
        </div>
        <div>
          <dt>about the axis across</dt>
          <dd>{hanging.moment_across_nm.toFixed(2)} N m</dd>
        </div>
        <div>
          <dt>balanced by, 30&nbsp;cm out</dt>
          <dd>{carried(hanging.counterweight_kg, system)}</dd>
        </div>
      </dl>
      <p className="faint">
        By the revised NIOSH lifting equation (Waters and others, 1993), close to the body, seldom.
        On a machine: nothing loose, hands away while it turns.
      </p>
    </section>
  );
}
