import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";

import type { CoatChoice, SheetQuestion } from "../../api/client";
import {
  counted,
  duration,
  number,
  quantity,
  type UnitSystem,
  withUnit,
} from "../../shared/format";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { choicesQuery, tellChoices } from "./queries";

interface Properties {
  question: SheetQuestion;
  /** `coats` is what the wish then says; null as the limits of a coat have it. */
  onTake: (coats: number | null, count: number) => void;
}

/** Resin against time for more or fewer coats, and how even each comes out; a press takes one. */
export function CoatChoices({ question, onTake }: Properties) {
  const queries = useQueryClient();
  const asked = choicesQuery(question);
  const choices = useQuery(asked);
  const tell = useMutation({
    mutationFn: (what: { settle?: boolean; stop?: boolean }) => tellChoices(question, what),
    onSuccess: (answer) => queries.setQueryData(asked.queryKey, answer),
  });
  if (choices.error) return <Failed error={choices.error} />;
  const { choices: found = [], open = 0 } = choices.data ?? {};
  // One number of coats is no choice.
  if (found.length < 2) return null;
  const unknown = found.some((one) => one.choice.stands_on !== "settled" && one.choice.keeps);
  return (
    <section className="coat-choices" aria-label="More or fewer coats">
      <h3>More or fewer coats</h3>
      <Picture choices={found} onTake={onTake} />
      <p className="hint">
        Resin over hands-on time; above, how thick thin places are, of the mean wall. A broken ring
        is an estimate.
      </p>
      {open > 0 ? (
        <p role="status">
          {open} {open === 1 ? "is" : "are"} being simulated.{" "}
          <Button size="small" onClick={() => tell.mutate({ stop: true })}>
            Stop
          </Button>
        </p>
      ) : (
        unknown && (
          <Button
            size="small"
            loading={tell.isPending}
            onClick={() => tell.mutate({ settle: true })}
          >
            Simulate the others
          </Button>
        )
      )}
    </section>
  );
}

/** Shares of the picture that stay free beside, over and under the rings. */
const FREE = { left: 0.16, right: 0.12, top: 0.16, bottom: 0.26 };

function Picture({ choices, onTake }: { choices: CoatChoice[]; onTake: Properties["onTake"] }) {
  const system = useUnits((state) => state.system);
  const bands = choices.flatMap(({ choice }) => [choice.total_charge_kg, ...choice.band_kg]);
  const x = scale(
    choices.map(({ choice }) => choice.hands_on_s),
    FREE.left,
    1 - FREE.right,
  );
  const y = scale(bands, 1 - FREE.bottom, FREE.top);
  const frontier = choices.filter(
    ({ choice }) => choice.on_frontier && choice.stands_on === "settled",
  );
  return (
    <div className="coat-picture">
      <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
        {choices.map(({ choice }) => (
          <line
            key={choice.coats}
            className="band"
            x1={x(choice.hands_on_s)}
            x2={x(choice.hands_on_s)}
            y1={y(choice.band_kg[0] ?? choice.total_charge_kg)}
            y2={y(choice.band_kg[1] ?? choice.total_charge_kg)}
          />
        ))}
        <polyline
          points={frontier
            .map(({ choice }) => `${x(choice.hands_on_s)},${y(choice.total_charge_kg)}`)
            .join(" ")}
        />
      </svg>
      {[Math.min(...bands), Math.max(...bands)].map((kg) => (
        <span key={kg} className="resin" style={{ top: `${100 * y(kg)}%` }}>
          {quantity(kg, "kg", system)}
        </span>
      ))}
      {choices.map((one) => (
        <Point
          key={one.choice.coats}
          one={one}
          left={x(one.choice.hands_on_s)}
          top={y(one.choice.total_charge_kg)}
          system={system}
          onTake={() => onTake(one.wish_coats, one.choice.coats)}
        />
      ))}
    </div>
  );
}

interface PointProperties {
  one: CoatChoice;
  left: number;
  top: number;
  system: UnitSystem;
  onTake: () => void;
}

function Point({ one, left, top, system, onTake }: PointProperties) {
  const { choice, is_chosen, job } = one;
  const even =
    choice.evenness === null ? "" : withUnit(number(choice.evenness, "share", system), "%");
  const isSettled = choice.stands_on === "settled";
  const said = [
    counted(choice.coats, "coat"),
    quantity(choice.total_charge_kg, "kg", system),
    `hands on for ${duration(choice.hands_on_s)}`,
    isSettled ? `thin places ${even} of the mean wall` : "an estimate",
    ...(choice.keeps ? [] : ["does not keep the least wall or a limit"]),
    ...(job?.status === "refused" ? [job.said] : []),
  ].join(", ");
  const minutes = withUnit(Math.round(choice.hands_on_s / 60), "min");
  return (
    <>
      <button
        type="button"
        className={["point", isSettled ? "" : "estimated", choice.keeps ? "" : "short"].join(" ")}
        style={{ left: `${100 * left}%`, top: `${100 * top}%` }}
        aria-pressed={is_chosen}
        aria-label={said}
        title={said}
        disabled={is_chosen}
        onClick={onTake}
      >
        {choice.coats}
      </button>
      {even && (
        <span className="even" style={{ left: `${100 * left}%` }}>
          {withUnit(Math.round(100 * (choice.evenness ?? 0)), "%")}
        </span>
      )}
      <span className="minutes" style={{ left: `${100 * left}%` }}>
        {minutes}
      </span>
    </>
  );
}

/** A linear scale from what there is onto a stretch of the picture; its middle if all are alike. */
function scale(values: readonly number[], from: number, to: number) {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  return (value: number) =>
    high > low ? from + ((value - low) / (high - low)) * (to - from) : (from + to) / 2;
}
