import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, InputNumber, Radio, Select } from "antd";
import { useState } from "react";

import { ProblemError, type NewMould, type PieceSummary } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";
import { Failed } from "../../shared/states";
import { MaterialSelect } from "../shelf/MaterialSelect";
import { OwnCoats } from "./OwnCoats";
import { RemovedClay } from "./RemovedClay";
import { SoftPlaces } from "./SoftPlaces";
import { MouldRequirements } from "./MouldRequirements";
import { mouldPreviewQuery } from "./queries";

const WAYS = [
  { value: "brush", label: "brushed" },
  { value: "blanket", label: "poured round a clay blanket" },
  { value: "block", label: "poured into a box" },
];

const COUNTS = [
  { field: "thickened_from", label: "Thickener from this coat on (0 for none)" },
  { field: "gauze_in", label: "Gauze is laid into coat (0 for none)" },
  { field: "keys", label: "Keys stuck on" },
] as const;

interface Properties {
  pieces: PieceSummary[];
  first: NewMould;
  title: string;
  button: string;
  pending: boolean;
  error: Error | null;
  send: (mould: NewMould) => void;
}

/** How a mould is to be built, and beside it at once what that would take. */
export function MouldForm({ pieces, first, title, button, pending, error, send }: Properties) {
  const [mould, setMould] = useState<NewMould>(first);
  const [unreadable, setUnreadable] = useState(false);
  const change = (part: Partial<NewMould>) => setMould({ ...mould, ...part });
  // Soft places are brushed, clay is poured round: what the way does not know goes with it.
  const changeWay = (way: NewMould["way"] & string) =>
    change({
      way,
      ...(way === "brush" ? {} : { patches: [], coats_m: [] }),
      ...(way === "blanket" ? {} : { clay: null }),
    });
  const preview = useQuery(mouldPreviewQuery({ ...mould, name: mould.name.trim() || "New" }));
  const problems = [error, preview.error].find((one) => one instanceof ProblemError)?.fields;
  const ready = Boolean(mould.name.trim() && mould.rubber_id && mould.shell_id) && !unreadable;
  const own = mould.coats_m ?? [];
  const piece = pieces.find((one) => one.id === mould.piece_id);
  const field = { kind: "m", onUnreadable: setUnreadable } as const;
  return (
    <form
      className="mould-form"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready) send(mould);
      }}
    >
      <div>
        <h2>{title}</h2>
        <div className="field">
          <label htmlFor="mould-name">Name</label>
          <Input
            id="mould-name"
            value={mould.name}
            maxLength={120}
            status={problems?.name ? "error" : ""}
            onChange={(event) => change({ name: event.target.value })}
          />
        </div>
        <div className="field">
          <label htmlFor="mould-piece">Piece</label>
          <Select
            id="mould-piece"
            showSearch
            optionFilterProp="label"
            value={mould.piece_id}
            onChange={(piece_id) => change({ piece_id })}
            options={pieces.map((one) => ({ value: one.id, label: one.name }))}
          />
        </div>
        <div className="field">
          <label htmlFor="mould-rubber">Rubber</label>
          <MaterialSelect
            id="mould-rubber"
            kind="rubber"
            value={mould.rubber_id}
            onChange={(rubber_id) => change({ rubber_id })}
          />
        </div>
        <Radio.Group
          aria-label="How the rubber is put on"
          value={mould.way}
          onChange={(event) => changeWay(event.target.value as NewMould["way"] & string)}
          options={WAYS}
        />
        {problems?.way && <div className="hint wrong">{problems.way}</div>}
        <QuantityField
          {...field}
          label={mould.way === "block" ? "Rubber round the piece" : "Wall of rubber"}
          value={mould.rubber_wall_m}
          onChange={(rubber_wall_m) => change({ rubber_wall_m })}
          problem={problems?.rubber_wall_m}
          hint={
            mould.way === "block"
              ? "Usually 19 to 25\u00a0mm."
              : "Usually 9 to 13\u00a0mm all over."
          }
        />
        {mould.way === "brush" && (
          <>
            <Checkbox
              checked={own.length > 0}
              onChange={(event) =>
                change({
                  coats_m: event.target.checked
                    ? evenCoats(mould, preview.data?.rubber_coats ?? 0)
                    : [],
                })
              }
            >
              Say how thick each coat is
            </Checkbox>
            {own.length > 0 ? (
              <OwnCoats
                wallM={mould.rubber_wall_m}
                coats={own}
                problem={problems?.coats_m}
                onChange={(coats_m) => change({ coats_m })}
                onUnreadable={setUnreadable}
              />
            ) : (
              <QuantityField
                {...field}
                label="Each coat after the first"
                value={mould.coat_m ?? 0.003}
                onChange={(coat_m) => change({ coat_m })}
                problem={problems?.coat_m}
              />
            )}
            <QuantityField
              label="Thickener, of A and B"
              kind="share"
              value={mould.thickener ?? 0.01}
              onChange={(thickener) => change({ thickener })}
              onUnreadable={setUnreadable}
              problem={problems?.thickener}
            />
            <Checkbox
              checked={mould.thinned ?? false}
              onChange={(event) => change({ thinned: event.target.checked })}
            >
              Thin the first coat
            </Checkbox>
            {COUNTS.map(({ field: name, label }) => (
              <div className="field" key={name}>
                <label htmlFor={`mould-${name}`}>{label}</label>
                <InputNumber
                  id={`mould-${name}`}
                  min={0}
                  precision={0}
                  value={mould[name] ?? 0}
                  status={problems?.[name] ? "error" : ""}
                  onChange={(count) => change({ [name]: count ?? 0 })}
                />
                <div className="hint wrong">{problems?.[name]}</div>
              </div>
            ))}
            <QuantityField
              label="Stays on board, brush and cup"
              kind="share"
              value={mould.loss ?? 0}
              onChange={(loss) => change({ loss })}
              onUnreadable={setUnreadable}
              problem={problems?.loss}
            />
            {piece && (
              <SoftPlaces
                piece={piece}
                rubberId={mould.rubber_id}
                places={mould.patches ?? []}
                problem={problems?.patches}
                onChange={(patches) => change({ patches })}
                onUnreadable={setUnreadable}
              />
            )}
          </>
        )}
        {mould.way === "blanket" && (
          <RemovedClay
            clay={mould.clay ?? null}
            problem={problems?.clay}
            onChange={(clay) => change({ clay })}
            onUnreadable={setUnreadable}
          />
        )}
        <div className="field">
          <label htmlFor="mould-shell">Shell</label>
          <MaterialSelect
            id="mould-shell"
            kind="shell"
            value={mould.shell_id}
            onChange={(shell_id) => change({ shell_id })}
          />
        </div>
        <Radio.Group
          aria-label="Parts of the shell"
          optionType="button"
          value={mould.parts ?? 0}
          onChange={(event) => change({ parts: (event.target.value as number) || null })}
          options={[
            { value: 0, label: "fewest parts" },
            ...[1, 2, 3, 4].map((parts) => ({ value: parts, label: String(parts) })),
          ]}
        />
        <div className="field">
          <label htmlFor="mould-life">Casts expected of it</label>
          <InputNumber
            id="mould-life"
            precision={0}
            value={mould.life_casts}
            status={problems?.life_casts ? "error" : ""}
            onChange={(life) => change({ life_casts: life ?? 0 })}
          />
          <div className="hint wrong">{problems?.life_casts}</div>
        </div>
        <Button type="primary" htmlType="submit" disabled={!ready} loading={pending}>
          {button}
        </Button>
        {error && <Failed error={error} />}
      </div>
      <div className={preview.isError || unreadable ? "links stale" : "links"}>
        <h2>What it takes</h2>
        {preview.error && <Failed error={preview.error} />}
        {preview.data ? (
          <article className="card">
            <MouldRequirements takes={preview.data} studied={false} />
          </article>
        ) : (
          !preview.isError && <p className="faint">Choose rubber and shell.</p>
        )}
      </div>
    </form>
  );
}

/** Where a maker's own coats begin: the print coat, and the rest evenly in as many as planned. */
function evenCoats(mould: NewMould, planned: number): number[] {
  const print = mould.print_coat_m ?? 0;
  const rest = mould.rubber_wall_m - print;
  const others = Math.max(1, planned - 1);
  return [print, ...Array.from({ length: others }, () => rest / others)];
}
