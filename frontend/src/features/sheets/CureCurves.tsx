import type { Cure, Curve } from "../../api/client";
import { duration, quantity, withUnit } from "../../shared/format";
import { useUnits } from "../../shared/units";

const WIDTH = 600;
const HEIGHT = 150;
const LEFT = 58;
const BOTTOM = 20;
/** From water-thin to a paste; what is thicker no longer flows. [Pa s] */
const THINNEST = 0.03;
const THICKEST = 300;

/** Viscosity in the cup, and temperature in cup and film, over the same minutes. */
export function CureCurves({ cure }: { cure: Cure }) {
  const system = useUnits((state) => state.system);
  const until = 1.25 * Math.max(cure.gel_film_s, cure.gel_cup_s);
  const x = (seconds: number) => LEFT + (Math.min(seconds, until) / until) * (WIDTH - LEFT - 8);
  const kelvins = [...cure.curve.temperature_k, ...cure.film_curve.temperature_k];
  const [coldest, hottest] = [Math.min(...kelvins) - 2, Math.max(...kelvins) + 4];
  const temperature = (kelvin: number) =>
    8 + (1 - (kelvin - coldest) / (hottest - coldest)) * (HEIGHT - 8 - BOTTOM);
  const viscosity = (value: number) => {
    const share = Math.log(value / THINNEST) / Math.log(THICKEST / THINNEST);
    return 8 + (1 - Math.min(Math.max(share, 0), 1)) * (HEIGHT - 8 - BOTTOM);
  };
  const marks = [
    { at: cure.working_time_s, said: "worked" },
    { at: cure.gel_film_s, said: "film gels" },
  ];
  const shared = { cure, marks, x, until };
  return (
    <figure className="cure-curves">
      <Plot
        {...shared}
        title="How thick it is in the cup, and on the mould (broken)"
        label="Viscosity over time"
        rules={[0.1, 1, 10, 100].map((value) => ({
          at: viscosity(value),
          said: withUnit(value, "Pa\u00a0s"),
        }))}
        values={(curve) => curve.viscosity_pa_s}
        y={viscosity}
      />
      <Plot
        {...shared}
        title="How warm it gets in the cup, and on the mould (broken)"
        label="Temperature over time"
        rules={[coldest + 2, (coldest + hottest) / 2, hottest - 4].map((value) => ({
          at: temperature(value),
          said: quantity(value, "K", system),
        }))}
        values={(curve) => curve.temperature_k}
        y={temperature}
      />
    </figure>
  );
}

interface PlotProperties extends MarksProperties {
  cure: Cure;
  title: string;
  label: string;
  rules: readonly { at: number; said: string }[];
  values: (curve: Curve) => readonly (number | null)[];
  y: (value: number) => number;
}

/** One figure over the minutes: in the cup drawn through, on the mould broken. */
function Plot({ cure, title, label, rules, values, y, marks, x, until }: PlotProperties) {
  const drawn = (curve: Curve) => line(curve, values(curve), x, y, until);
  return (
    <>
      <figcaption>{title}</figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={label}>
        {rules.map((rule) => (
          <g key={rule.said} className="rule">
            <line x1={LEFT} x2={WIDTH - 8} y1={rule.at} y2={rule.at} />
            <text x={LEFT - 6} y={rule.at + 4} textAnchor="end">
              {rule.said}
            </text>
          </g>
        ))}
        <Marks marks={marks} x={x} until={until} />
        <path className="cup" d={drawn(cure.curve)} />
        <path className="film" d={drawn(cure.film_curve)} />
      </svg>
    </>
  );
}

interface MarksProperties {
  marks: readonly { at: number; said: string }[];
  x: (seconds: number) => number;
  until: number;
}

function Marks({ marks, x, until }: MarksProperties) {
  return marks.map(({ at, said }) =>
    at < until ? (
      <g key={said} className="mark">
        <line x1={x(at)} x2={x(at)} y1={8} y2={HEIGHT - BOTTOM} />
        <text x={x(at)} y={HEIGHT - 6} textAnchor="middle">
          {said} {duration(at)}
        </text>
      </g>
    ) : null,
  );
}

function line(
  curve: Curve,
  values: readonly (number | null)[],
  x: (seconds: number) => number,
  y: (value: number) => number,
  until: number,
): string {
  const points = curve.t_s
    .map((seconds, at) => ({ seconds, value: values[at] }))
    .filter(
      (one): one is { seconds: number; value: number } => one.value != null && one.seconds <= until,
    );
  return points
    .map((one, at) => `${at ? "L" : "M"}${x(one.seconds).toFixed(1)} ${y(one.value).toFixed(1)}`)
    .join("");
}
