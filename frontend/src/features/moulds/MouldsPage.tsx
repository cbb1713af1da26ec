import { useQuery } from "@tanstack/react-query";
import { App, Button, Input, InputNumber, Select } from "antd";
import { useState } from "react";

import {
  ProblemError,
  sentenceOf,
  type Mould,
  type MouldTakes,
  type NewMould,
  type Piece,
} from "../../api/client";
import { carried, duration, quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { piecesQuery } from "../pieces/queries";
import { MaterialSelect } from "../shelf/MaterialSelect";
import { mouldPreviewQuery, mouldsQuery, useAddMould, useDeleteMould } from "./queries";

/** Moulds: what they are built of, and what that takes. */
export function MouldsPage() {
  const moulds = useQuery(mouldsQuery());
  const pieces = useQuery(piecesQuery());
  return (
    <section className="page">
      <header>
        <h1>Moulds</h1>
      </header>
      {moulds.isPending && <Loading what="the moulds" />}
      {moulds.isError && <Failed error={moulds.error} retry={() => void moulds.refetch()} />}
      {moulds.data?.length === 0 && (
        <Nothing>
          No mould yet. Say what it is built of, and read what that takes before the first brush
          stroke.
        </Nothing>
      )}
      <div className="cards">
        {moulds.data?.map((mould) => (
          <MouldCard key={mould.id} mould={mould} />
        ))}
      </div>
      {pieces.data && pieces.data.length > 0 && <NewMouldForm pieces={pieces.data} />}
      {pieces.data?.length === 0 && <Nothing>A mould needs a piece: upload one first.</Nothing>}
    </section>
  );
}

function MouldCard({ mould }: { mould: Mould }) {
  const system = useUnits((state) => state.system);
  const remove = useDeleteMould();
  const { message } = App.useApp();
  return (
    <article className="card">
      <h2>{mould.name}</h2>
      <p className="faint">
        of {mould.piece_name}; {quantity(mould.rubber_wall_m, "m", system)} of {mould.rubber_name},
        shell of {mould.shell_name}; {mould.life_casts} casts expected
      </p>
      <Takes takes={mould.takes} />
      {mould.operations.map((one) => (
        <p key={one.operation} className="hazard">
          <b>{one.title}:</b> {one.sentences.join(" ")}
        </p>
      ))}
      <Button
        size="small"
        aria-label={`Delete ${mould.name}`}
        onClick={() =>
          remove.mutate(mould.id, { onError: (error) => void message.error(sentenceOf(error), 8) })
        }
      >
        Delete
      </Button>
    </article>
  );
}

function Takes({ takes }: { takes: MouldTakes }) {
  const system = useUnits((state) => state.system);
  return (
    <>
      <p className="why-figure" data-figure="rubber">
        {carried(takes.rubber_kg, system)} <small>of rubber</small>
      </p>
      <dl>
        <div>
          <dt>brushed in</dt>
          <dd>{takes.rubber_coats} coats</dd>
        </div>
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
      <p className="faint">Estimate: coats, split and keys are not planned.</p>
    </>
  );
}

function NewMouldForm({ pieces }: { pieces: Piece[] }) {
  const [mould, setMould] = useState<NewMould>({
    name: "",
    piece_id: pieces[0]?.id ?? "",
    rubber_id: "",
    shell_id: "",
    rubber_wall_m: 0.01,
    life_casts: 40,
  });
  const [unreadable, setUnreadable] = useState(false);
  const change = (part: Partial<NewMould>) => setMould({ ...mould, ...part });
  const preview = useQuery(mouldPreviewQuery({ ...mould, name: mould.name.trim() || "New" }));
  const add = useAddMould();
  const problems = [add.error, preview.error].find((one) => one instanceof ProblemError)?.fields;
  const ready = Boolean(mould.name.trim() && mould.rubber_id && mould.shell_id) && !unreadable;
  return (
    <form
      className="mould-form"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready) add.mutate(mould, { onSuccess: () => change({ name: "" }) });
      }}
    >
      <div>
        <h2>A new mould</h2>
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
        <QuantityField
          label="Wall of rubber"
          kind="m"
          value={mould.rubber_wall_m}
          onChange={(rubber_wall_m) => change({ rubber_wall_m })}
          onUnreadable={setUnreadable}
          problem={problems?.rubber_wall_m}
          hint="Usually 9 to 13 mm all over."
        />
        <div className="field">
          <label htmlFor="mould-shell">Shell</label>
          <MaterialSelect
            id="mould-shell"
            kind="shell"
            value={mould.shell_id}
            onChange={(shell_id) => change({ shell_id })}
          />
        </div>
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
        <Button type="primary" htmlType="submit" disabled={!ready} loading={add.isPending}>
          Keep this mould
        </Button>
        {add.error && <Failed error={add.error} />}
      </div>
      <div className={preview.isError || unreadable ? "links stale" : "links"}>
        <h2>What it takes</h2>
        {preview.error && <Failed error={preview.error} />}
        {preview.data ? (
          <article className="card">
            <Takes takes={preview.data} />
          </article>
        ) : (
          <p className="faint">Choose rubber and shell.</p>
        )}
      </div>
    </form>
  );
}
