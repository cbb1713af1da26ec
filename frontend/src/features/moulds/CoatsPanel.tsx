import type { MouldPlan } from "../../api/client";
import { bound, carried, counted, duration, quantity, type UnitSystem } from "../../shared/format";
import { useUnits } from "../../shared/units";
import { handsTime } from "./when";

/** The coats to weigh, drawn to scale beside each other. */
export function CoatsPanel({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  const extras = (["thinner_kg", "thickener_kg", "tint_kg"] as const).filter((extra) =>
    plan.coats.some((coat) => coat[extra] > 0),
  );
  const words = { thinner_kg: "Thinner", thickener_kg: "Thickener", tint_kg: "Tint" };
  return (
    <section className="card rim" aria-label="Coats of rubber">
      <h2>Coats of rubber</h2>
      <Strip plan={plan} system={system} />
      <table className="coats stacks">
        <thead>
          <tr>
            <th scope="col">Coat</th>
            <th scope="col">A</th>
            <th scope="col">B</th>
            {extras.map((extra) => (
              <th key={extra} scope="col">
                {words[extra]}
              </th>
            ))}
            <th scope="col">Wall after it</th>
            <th scope="col">Next between</th>
          </tr>
        </thead>
        <tbody>
          {plan.coats.map((coat) => (
            <tr key={coat.number}>
              <th scope="row">
                <span className="stacks-only">Coat </span>
                {coat.number === 1 ? "1, print" : coat.number}
              </th>
              <td data-label="A">
                <b>{carried(coat.parts_kg.A ?? 0, system)}</b>
              </td>
              <td data-label="B">
                <b>{carried(coat.parts_kg.B ?? 0, system)}</b>
              </td>
              {extras.map((extra) => (
                <td key={extra} data-label={words[extra]}>
                  {coat[extra] > 0 ? carried(coat[extra], system) : "–"}
                </td>
              ))}
              <td data-label="Wall after it">
                {quantity(coat.to_m, "m", system)}
                {coat.gauze_m2 > 0 && (
                  <div className="faint">with {quantity(coat.gauze_m2, "m2", system)} of gauze</div>
                )}
              </td>
              <td data-label="Next between">
                {coat.number === plan.coats.length
                  ? "–"
                  : `${duration(coat.next_from_s)} and ${duration(coat.next_until_s)}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="faint">Keep the witness cup of each batch until it has set.</p>
      <table className="beside">
        <caption>Makers disagree; both as they come out here</caption>
        <thead>
          <tr>
            <th scope="col">School</th>
            <th scope="col">Coats</th>
            <th scope="col">Rubber</th>
            <th scope="col">Hands</th>
            <th scope="col">Waiting</th>
          </tr>
        </thead>
        <tbody>
          {plan.schools.map((school) => (
            <tr key={school.name}>
              <th scope="row">
                {school.name}
                <div className="faint">{bound(school.says)}</div>
              </th>
              <td>{school.coats}</td>
              <td>{carried(school.rubber_kg, system)}</td>
              <td>{handsTime(school.hands_s)}</td>
              <td>{duration(school.wait_s)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Soft places: brushed first, each in its own rubber, and the coats go over them. */
export function SoftPanel({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  return (
    <section className="card" aria-label="Soft places">
      <h2>Soft places</h2>
      {plan.patches.map((one) => (
        <dl key={one.name}>
          <div>
            <dt>
              <b>{one.name}</b>, of {one.rubber_name}
            </dt>
            <dd>
              A <b>{carried(one.parts_kg.A ?? 0, system)}</b> + B{" "}
              <b>{carried(one.parts_kg.B ?? 0, system)}</b>
            </dd>
          </div>
          <div>
            <dt>covers</dt>
            <dd>{quantity(one.area_m2, "m2", system)}</dd>
          </div>
          <div>
            <dt>bears a stretch of</dt>
            <dd>{quantity(one.allowed, "share", system)}</dd>
          </div>
        </dl>
      ))}
      <p className="faint">Brush them first; the coats above count without them.</p>
    </section>
  );
}

/** The wall cut through, from the piece outwards: every coat as thick as it is. */
function Strip({ plan, system }: { plan: MouldPlan; system: UnitSystem }) {
  const width = 100;
  const scale = width / plan.wall_m;
  return (
    <figure className="strip">
      <svg
        role="img"
        aria-label={`Wall of ${quantity(plan.wall_m, "m", system)} in ${counted(plan.coats.length, "coat")}`}
        viewBox={`-8 0 ${width + 8} 16`}
        preserveAspectRatio="none"
      >
        <rect className="master" x={-8} y={0} width={8} height={16} />
        {plan.coats.map((coat) => (
          <rect
            key={coat.number}
            className={coat.number % 2 === 0 ? "tinted" : "plain"}
            x={coat.from_m * scale}
            y={0}
            width={(coat.to_m - coat.from_m) * scale}
            height={16}
          />
        ))}
      </svg>
      <figcaption>
        <span>piece</span>
        <span>{quantity(plan.wall_m, "m", system)} outwards, every second coat tinted</span>
      </figcaption>
    </figure>
  );
}

/** A poured rubber: its clay and its tube, or its box. */
export function PouredPanel({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  const { blanket, block } = plan;
  if (blanket) {
    return (
      <section className="card" aria-label="Blanket of clay">
        <h2>Blanket of clay</h2>
        <p className="why-figure">
          {carried(blanket.clay_kg, system)} <small>of clay</small>
        </p>
        <dl>
          <div>
            <dt>its volume is the rubber&apos;s</dt>
            <dd>{quantity(blanket.clay_m3, "m3", system)}</dd>
          </div>
          <div>
            <dt>filling through a tube of 45&nbsp;mm</dt>
            <dd>{duration(blanket.fill_s)}</dd>
          </div>
          <div>
            <dt>bleed holes, plugged from the lowest up</dt>
            <dd>{blanket.bleed_holes}</dd>
          </div>
        </dl>
      </section>
    );
  }
  return (
    <section className="card" aria-label="Box">
      <h2>Box</h2>
      <p className="why-figure">
        {carried(block.saved_kg, system)} <small>saved along the outline</small>
      </p>
      <p>That is {block.saved_cost} of rubber.</p>
      <dl>
        <div>
          <dt>straight box</dt>
          <dd>{quantity(block.box_m3, "m3", system)} of rubber</dd>
        </div>
        <div>
          <dt>box along the outline</dt>
          <dd>{quantity(block.outline_m3, "m3", system)} of rubber</dd>
        </div>
      </dl>
    </section>
  );
}
