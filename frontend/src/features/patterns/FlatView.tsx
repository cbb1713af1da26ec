import type { CutPattern, DrawnSheet } from "../../api/client";
import { fieldText, unitOf } from "../../shared/format";
import { useUnits } from "../../shared/units";

interface Properties {
  pattern: CutPattern;
  chosen: string | null;
  onChoose: (mark: string) => void;
}

/** The sheets of a pattern, each with its parts; a mark that is pressed is found on the piece. */
export function FlatView({ pattern, chosen, onChoose }: Properties) {
  const system = useUnits((state) => state.system);
  const { sheet_width_m: wide, sheet_height_m: high } = pattern;
  return (
    <div className="pattern-sheets">
      {pattern.sheets.map((sheet, at) => (
        <figure key={at}>
          <svg
            viewBox={usedOf(sheet, wide, high)}
            role="img"
            aria-label={`Sheet ${at + 1} of ${pattern.sheets.length}`}
          >
            <rect className="sheet" width={wide} height={high} />
            <Drawn sheet={sheet} high={high} wide={wide} chosen={chosen} onChoose={onChoose} />
          </svg>
          <figcaption>
            sheet {at + 1} of {pattern.sheets.length}, {fieldText(wide, "m", system)} by{" "}
            {fieldText(high, "m", system)}&nbsp;{unitOf("m", system)}, as far as it is used
          </figcaption>
        </figure>
      ))}
    </div>
  );
}

/** What of a sheet has something on it, as a view box: parts are seen large. */
function usedOf(sheet: DrawnSheet, wide: number, high: number): string {
  const points = sheet.lines.flatMap((line) => line.points_m);
  const edge = 0.01 * wide;
  const right = Math.min(Math.max(...points.map(([x = 0]) => x)) + edge, wide + edge);
  const top = Math.min(Math.max(...points.map(([, y = 0]) => y)) + edge, high + edge);
  return `${-edge} ${high - top} ${right + edge} ${top + edge}`;
}

interface DrawnProperties {
  sheet: DrawnSheet;
  high: number;
  wide: number;
  chosen: string | null;
  onChoose: (mark: string) => void;
}

function Drawn({ sheet, high, wide, chosen, onChoose }: DrawnProperties) {
  return (
    <>
      {sheet.lines.map(({ layer, points_m, closed }, at) => {
        const points = points_m.map(([x = 0, y = 0]) => `${x},${high - y}`).join(" ");
        return closed ? (
          <polygon key={at} className={layer} points={points} />
        ) : (
          <polyline key={at} className={layer} points={points} />
        );
      })}
      {sheet.holes.map(({ at_m: [x = 0, y = 0], diameter_m }, at) => (
        <circle key={at} className="drill" cx={x} cy={high - y} r={diameter_m / 2} />
      ))}
      {sheet.labels.map(({ at_m: [x = 0, y = 0], text }, at) => (
        <text key={at} x={x} y={high - y} fontSize={wide / 70} dominantBaseline="central">
          {text}
        </text>
      ))}
      {sheet.marks.map(({ name, at_m: [x = 0, y = 0] }) => (
        <circle
          key={name}
          className={name === chosen ? "place chosen" : "place"}
          cx={x}
          cy={high - y}
          r={wide / (name === chosen ? 70 : 140)}
          onClick={() => onChoose(name)}
        >
          <title>{name}</title>
        </circle>
      ))}
    </>
  );
}
