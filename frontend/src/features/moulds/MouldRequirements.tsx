import type { MouldEstimate } from "../../api/client";
import { carried, duration, quantity, counted } from "../../shared/format";
import { useUnits } from "../../shared/units";

/** What a mould takes, in the few figures that decide it. */
export function MouldRequirements({ takes, studied }: { takes: MouldEstimate; studied: boolean }) {
  const system = useUnits((state) => state.system);
  return (
    <>
      <p className="why-figure" data-figure="rubber">
        {carried(takes.rubber_kg, system)} <small>of rubber</small>
      </p>
      <dl>
        {takes.rubber_coats > 0 && (
          <div>
            <dt>brushed in</dt>
            <dd>{counted(takes.rubber_coats, "coat")}</dd>
          </div>
        )}
        <div>
          <dt>shell</dt>
          <dd>
            {quantity(takes.shell_m2, "m2", system)}, {carried(takes.shell_kg, system)}
          </dd>
        </div>
        <div>
          <dt>rubber and shell weigh</dt>
          <dd>{carried(takes.weight_kg, system)}</dd>
        </div>
        <div>
          <dt>work</dt>
          <dd>{duration(takes.hours * 3600)}</dd>
        </div>
      </dl>
      {!studied && (
        <p className="faint">Estimate from area and bends, until the piece is studied for it.</p>
      )}
    </>
  );
}
