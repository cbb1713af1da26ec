import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";

import type { Dab } from "../../api/client";
import { FileButton } from "../../shared/FileButton";
import { Dialog } from "../../shared/Dialog";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { clockTime, day } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { dabsQuery, useDabPhoto, useDeleteDab, useJudgeDab, useStartDab } from "./dabQueries";
import { materialsQuery, suppliesQuery } from "./queries";
import { ShelfNav } from "./ShelfNav";

const RESULTS = { cured: "cured", soft: "soft and gummy", stuck: "stuck for good" } as const;

/** What on what, since when, and what it came to: above every general rule. */
export function DabsPage() {
  const dabs = useQuery(dabsQuery());
  const [adding, setAdding] = useState(false);
  return (
    <section className="page">
      <header>
        <h1>Shelf</h1>
        <Button type="primary" onClick={() => setAdding(true)}>
          Add a dab test
        </Button>
      </header>
      <ShelfNav />
      <p className="lead">
        A dab of the one on an unseen spot of the other, looked at after a day. What it came to
        counts more than any general rule. Gloves: an uncured dab is still uncured resin.
      </p>
      {dabs.isPending && <Loading what="the dab tests" />}
      {dabs.isError && <Failed error={dabs.error} retry={() => void dabs.refetch()} />}
      {dabs.data?.length === 0 && <Nothing>No dab test yet.</Nothing>}
      <div className="cards">
        {dabs.data?.map((dab) => (
          <DabCard key={dab.id} dab={dab} />
        ))}
      </div>
      <Dialog side title="New dab test" width={460} open={adding} onClose={() => setAdding(false)}>
        <NewDabForm onDone={() => setAdding(false)} />
      </Dialog>
    </section>
  );
}

function DabCard({ dab }: { dab: Dab }) {
  const judge = useJudgeDab();
  const photo = useDabPhoto();
  const remove = useDeleteDab();
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  const what = `${dab.first_name} on ${dab.second_name.toLowerCase()}`;
  return (
    <article className="card">
      <h2>{what}</h2>
      <p className={dab.due ? "due" : "faint"}>
        {dab.result
          ? `${RESULTS[dab.result]}, judged ${day(dab.judged_at ?? dab.made_at)}`
          : dab.due
            ? "A day is over: touch it and say how it is."
            : `Look at it ${day(dab.due_at)}, ${clockTime(dab.due_at)}.`}
      </p>
      {dab.note && <p>{dab.note}</p>}
      {dab.has_photo && <img src={`/api/v1/dab-tests/${dab.id}/photo`} alt={`The dab: ${what}`} />}
      <div className="actions">
        {!dab.result &&
          (Object.keys(RESULTS) as (keyof typeof RESULTS)[]).map((result) => (
            <Button
              key={result}
              onClick={() =>
                judge.mutate({ id: dab.id, result, note: dab.note }, { onError: refuse })
              }
            >
              It is {RESULTS[result]}
            </Button>
          ))}
        <FileButton
          accept="image/jpeg,image/png"
          busy={photo.isPending}
          onFile={(file) => photo.mutate({ id: dab.id, file }, { onError: refuse })}
        >
          {dab.has_photo ? "Another photo" : "Add a photo"}
        </FileButton>
        <Button
          onClick={() =>
            confirm({
              title: `Delete the dab of ${what}?`,
              content: "Its result and its photo go with it.",
              ok: "Delete",
              onOk: () => remove.mutateAsync(dab.id).catch(refuse),
            })
          }
        >
          Delete
        </Button>
      </div>
    </article>
  );
}

function NewDabForm({ onDone }: { onDone: () => void }) {
  const materials = useQuery(materialsQuery());
  const supplies = useQuery(suppliesQuery());
  const start = useStartDab();
  const [first, setFirst] = useState<string | null>(null);
  const [second, setSecond] = useState<string | null>(null);
  const [note, setNote] = useState("");
  const options = [...(supplies.data ?? []), ...(materials.data ?? [])].map((one) => ({
    value: one.id,
    label: one.name,
  }));
  return (
    <form
      className="stack"
      onSubmit={(event) => {
        event.preventDefault();
        if (first && second)
          start.mutate({ first_id: first, second_id: second, note }, { onSuccess: onDone });
      }}
    >
      <div className="field">
        <label htmlFor="dab-first">A dab of</label>
        <Select
          id="dab-first"
          showSearch
          optionFilterProp="label"
          value={first}
          onChange={setFirst}
          options={options}
        />
      </div>
      <div className="field">
        <label htmlFor="dab-second">on</label>
        <Select
          id="dab-second"
          showSearch
          optionFilterProp="label"
          value={second}
          onChange={setSecond}
          options={options}
        />
      </div>
      <div className="field">
        <label htmlFor="dab-note">Where, how prepared</label>
        <Input
          id="dab-note"
          value={note}
          maxLength={4000}
          onChange={(event) => setNote(event.target.value)}
        />
      </div>
      <Button
        type="primary"
        htmlType="submit"
        disabled={!first || !second}
        loading={start.isPending}
      >
        Start its clock
      </Button>
      {start.error && <Failed error={start.error} />}
    </form>
  );
}
