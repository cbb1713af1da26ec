import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, Radio } from "antd";
import { lazy, Suspense, useState } from "react";
import { useNavigate } from "react-router";

import { client, unwrap, type Taping } from "../../api/client";
import { FileButton } from "../../shared/FileButton";
import { fieldText, readField, unitOf, type UnitSystem } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { useRetyped } from "../../shared/useRetyped";
import { tapingQuery, useAddByHand, useReadGirths } from "./queries";
import { SilhouetteView, TapedFigures } from "./SilhouetteView";

const TapedView = lazy(() => import("../../husk/TapedView"));

interface Row {
  height: string;
  girth: string;
  width: string;
}

// A head-and-neck bust, so that the silhouette shows at once what the numbers mean. [m]
const FIRST: readonly (readonly [number, number])[] = [
  [0, 0.38],
  [0.06, 0.4],
  [0.12, 0.54],
  [0.2, 0.6],
  [0.25, 0.48],
];

const LABELS = {
  height: "Height above the rim",
  girth: "Girth",
  width: "Width, if known",
} as const;

/** Girths at heights, from the rim upwards; the silhouette follows. */
export function TapeForm() {
  const system = useUnits((state) => state.system);
  const shown = (value: number) => fieldText(value, "m", system);
  const [name, setName] = useState("");
  const [rows, setRows] = useState<Row[]>(
    FIRST.map(([height, girth]) => ({ height: shown(height), girth: shown(girth), width: "" })),
  );
  const [top, setTop] = useState(shown(0.28));
  useRetyped("m", (retype) => {
    setRows(
      rows.map(({ height, girth, width }) => ({
        height: retype(height),
        girth: retype(girth),
        width: retype(width),
      })),
    );
    setTop(retype(top));
  });
  const [half, setHalf] = useState(false);
  const [outline, setOutline] = useState<"round" | "head">("head");
  const file = useReadGirths();
  const navigate = useNavigate();
  const taping = toTaping(rows, top, half, outline, system);
  const preview = useQuery({
    ...tapingQuery(taping ?? { stations: [], top_m: null, half, outline }),
    enabled: taping !== null,
  });
  const add = useAddByHand(() =>
    unwrap(
      client.POST("/api/v1/pieces/taped", {
        body: { name, taping: taping ?? { stations: [], top_m: null, half, outline } },
      }),
    ),
  );
  const change = (at: number, part: Partial<Row>) =>
    setRows(rows.map((row, index) => (index === at ? { ...row, ...part } : row)));

  return (
    <form
      className="tape"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(undefined, { onSuccess: (piece) => void navigate(`/pieces/${piece.id}`) });
      }}
    >
      <div>
        <div className="field">
          <label htmlFor="tape-name">Name of the piece</label>
          <Input
            id="tape-name"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
          />
        </div>
        <table className="stacks">
          <thead>
            <tr>
              <th scope="col">Height above the rim</th>
              <th scope="col">{half ? "Girth, edge to edge" : "Girth"}</th>
              <th scope="col">Width, if known</th>
              <th scope="col">
                <span className="out-of-sight">Remove</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row, at) => (
              <tr key={at}>
                {(["height", "girth", "width"] as const).map((column) => (
                  <td key={column} data-label={LABELS[column]}>
                    <Input
                      aria-label={`${column} of station ${at + 1}`}
                      value={row[column]}
                      inputMode="decimal"
                      autoComplete="off"
                      suffix={unitOf("m", system)}
                      status={wrong(row[column], column, system) ? "error" : ""}
                      onChange={(event) => change(at, { [column]: event.target.value })}
                    />
                  </td>
                ))}
                <td>
                  <Button
                    size="small"
                    aria-label={`Remove station ${at + 1}`}
                    onClick={() => setRows(rows.filter((_, index) => index !== at))}
                  >
                    ×
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <span className="actions">
          <Button onClick={() => setRows([...rows, { height: "", girth: "", width: "" }])}>
            Add a girth
          </Button>
          <FileButton
            accept=".csv"
            onFile={(chosen) =>
              file.mutate(chosen, {
                onSuccess: ({ stations }) =>
                  setRows(
                    stations.map((one) => ({
                      height: shown(one.height_m),
                      girth: shown(one.girth_m),
                      width: one.width_m == null ? "" : shown(one.width_m),
                    })),
                  ),
              })
            }
          >
            Girths from a CSV
          </FileButton>
        </span>
        {file.error && <Failed error={file.error} />}
        <div className="field">
          <label htmlFor="tape-top">Height of the closed top; empty when it is open above</label>
          <Input
            id="tape-top"
            value={top}
            inputMode="decimal"
            autoComplete="off"
            suffix={unitOf("m", system)}
            onChange={(event) => setTop(event.target.value)}
          />
        </div>
        <Checkbox checked={half} onChange={(event) => setHalf(event.target.checked)}>
          A mask, open behind
        </Checkbox>
        <Radio.Group
          aria-label="Form of the sections"
          value={outline}
          onChange={(event) => setOutline(event.target.value as "round" | "head")}
        >
          <Radio value="head">sections like a head</Radio>
          <Radio value="round">round sections</Radio>
        </Radio.Group>
        {taping === null && (
          <p className="wrong">A height or a girth is not a number; a width may be empty.</p>
        )}
        {add.error && <Failed error={add.error} />}
        <Button
          type="primary"
          htmlType="submit"
          disabled={!name.trim() || taping === null || preview.isError}
          loading={add.isPending}
        >
          Save this piece
        </Button>
      </div>
      <div className={taping === null || preview.isError ? "links stale" : "links"}>
        {preview.error && <Failed error={preview.error} />}
        {preview.data && <TapedFigures silhouette={preview.data} system={system} />}
        <div className="side-by-side">
          {preview.data && (
            <SilhouetteView
              silhouette={preview.data}
              stations={taping?.stations ?? []}
              half={half}
              onStation={(at, height_m, girth_m) =>
                change(at, { height: shown(height_m), girth: shown(girth_m) })
              }
            />
          )}
          {taping && preview.isSuccess && !preview.isPlaceholderData && (
            <Suspense fallback={<Loading what="the view" />}>
              <TapedView taping={taping} />
            </Suspense>
          )}
        </div>
      </div>
    </form>
  );
}

function wrong(text: string, column: keyof Row, system: UnitSystem): boolean {
  if (column === "width" && !text.trim()) return false;
  return readField(text, "m", system) === null;
}

function toTaping(
  rows: Row[],
  top: string,
  half: boolean,
  outline: "round" | "head",
  system: UnitSystem,
): Taping | null {
  const stations = [];
  for (const row of rows) {
    const height_m = readField(row.height, "m", system);
    const girth_m = readField(row.girth, "m", system);
    const width_m = row.width.trim() ? readField(row.width, "m", system) : null;
    if (height_m === null || girth_m === null) return null;
    if (row.width.trim() && width_m === null) return null;
    stations.push({ height_m, girth_m, width_m });
  }
  const top_m = top.trim() ? readField(top, "m", system) : null;
  if (top.trim() && top_m === null) return null;
  return { stations, top_m, half, outline };
}
