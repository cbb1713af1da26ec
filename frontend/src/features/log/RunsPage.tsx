import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { CastRun } from "../../api/client";
import { Dialog } from "../../shared/Dialog";
import { day, counted } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { mouldsQuery } from "../moulds/queries";
import { sheetsQuery } from "../sheets/queries";
import { runsQuery, useBeginRun } from "./learnedQueries";
import { LogNav } from "./LogNav";

/** Runs: so many casts by a day. */
export function RunsPage() {
  const runs = useQuery(runsQuery());
  const [adding, setAdding] = useState(false);
  return (
    <section className="page">
      <header>
        <h1>Log</h1>
        <Button type="primary" onClick={() => setAdding(true)}>
          Plan a run
        </Button>
      </header>
      <LogNav />
      {runs.isPending && <Loading what="the runs" />}
      {runs.isError && <Failed error={runs.error} retry={() => void runs.refetch()} />}
      {runs.data?.length === 0 && (
        <Nothing>No run yet: so many casts by one sheet, by a day.</Nothing>
      )}
      <div className="cards">
        {runs.data?.map((run) => (
          <RunCard key={run.id} run={run} />
        ))}
      </div>
      <Dialog side title="New run" width={460} open={adding} onClose={() => setAdding(false)}>
        <NewRunForm onDone={() => setAdding(false)} />
      </Dialog>
    </section>
  );
}

function RunCard({ run }: { run: CastRun }) {
  const { state } = run;
  return (
    <article className="card">
      <h2>
        <Link to={`/log/runs/${run.id}`}>{run.name}</Link>
      </h2>
      <p className="why-figure">
        {state.done} <small>of {counted(run.wanted, "cast")}</small>
      </p>
      <p className="faint">
        {run.sheet_name}; {run.ended_at ? `ended ${day(run.ended_at)}` : `due ${day(run.due_on)}`}
      </p>
    </article>
  );
}

function NewRunForm({ onDone }: { onDone: () => void }) {
  const sheets = useQuery(sheetsQuery());
  const moulds = useQuery(mouldsQuery());
  const begin = useBeginRun();
  const [name, setName] = useState("");
  const [sheetId, setSheetId] = useState<string | null>(null);
  const [mouldIds, setMouldIds] = useState<string[]>([]);
  const [wanted, setWanted] = useState("12");
  const [due, setDue] = useState("");
  const sheet = sheets.data?.find((one) => one.id === sheetId);
  const ours = (moulds.data ?? []).filter(
    (one) => one.piece_id === sheet?.piece_id && one.retired_at === null,
  );
  const isReady = name.trim() && sheetId && mouldIds.length > 0 && /^\d+$/.test(wanted) && due;

  function choose(id: string) {
    setSheetId(id);
    const piece = sheets.data?.find((one) => one.id === id)?.piece_id;
    const first = moulds.data?.find((one) => one.piece_id === piece && one.retired_at === null);
    setMouldIds(first ? [first.id] : []);
  }

  return (
    <form
      className="stack"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isReady) return;
        begin.mutate(
          { name, sheet_id: sheetId, mould_ids: mouldIds, wanted: Number(wanted), due_on: due },
          { onSuccess: onDone },
        );
      }}
    >
      <div className="field">
        <label htmlFor="run-name">Name</label>
        <Input
          id="run-name"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="run-sheet">Cast sheet</label>
        <Select
          id="run-sheet"
          showSearch
          optionFilterProp="label"
          value={sheetId}
          onChange={choose}
          options={(sheets.data ?? []).map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      <div className="field">
        <label htmlFor="run-moulds">Moulds, in rotation</label>
        <Select
          id="run-moulds"
          mode="multiple"
          value={mouldIds}
          onChange={setMouldIds}
          options={ours.map((one) => ({ value: one.id, label: one.name }))}
          notFoundContent={sheetId ? "This piece has no mould in use." : "Choose a sheet first."}
        />
      </div>
      <div className="field">
        <label htmlFor="run-wanted">Casts</label>
        <Input
          id="run-wanted"
          inputMode="numeric"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="run-due">Due on</label>
        <Input
          id="run-due"
          type="date"
          value={due}
          onChange={(event) => setDue(event.target.value)}
        />
      </div>
      <Button type="primary" htmlType="submit" disabled={!isReady} loading={begin.isPending}>
        Begin the run
      </Button>
      {begin.error && <Failed error={begin.error} />}
    </form>
  );
}
