import { useQuery } from "@tanstack/react-query";
import { Button, Input, Radio, Select } from "antd";
import { useState } from "react";

import type { NewDayJob } from "../../api/client";
import { Failed } from "../../shared/states";
import { withOffset } from "../../shared/when";
import { mouldsQuery } from "../moulds/queries";
import { sheetsQuery } from "../sheets/queries";
import { FinishFields, NO_FINISH } from "./FinishFields";
import { useAddJob } from "./queries";

type Kind = NewDayJob["kind"];
/** Puts a cast, a mould or a task of one's own into the days. */
export function AddJob() {
  const sheets = useQuery(sheetsQuery());
  const moulds = useQuery(mouldsQuery());
  const add = useAddJob();
  const [kind, setKind] = useState<Kind>("cast");
  const [title, setTitle] = useState("");
  const [sheetId, setSheetId] = useState<string | null>(null);
  const [mouldId, setMouldId] = useState<string | null>(null);
  const [finished, setFinished] = useState(NO_FINISH);
  const [minutes, setMinutes] = useState("60");
  const [due, setDue] = useState("");
  const sheet = sheets.data?.find((one) => one.id === sheetId);
  const ours = (moulds.data ?? []).filter(
    (one) =>
      one.retired_at === null && (kind === "mould" || !sheet || one.piece_id === sheet.piece_id),
  );
  const mould = ours.find((one) => one.id === mouldId);
  const named = title.trim() || (kind === "cast" ? sheet?.name : mould?.name) || "";
  const isReady =
    named !== "" &&
    (kind !== "cast" || sheetId !== null) &&
    (kind !== "mould" || mouldId !== null) &&
    (kind !== "own" || /^\d+$/.test(minutes));

  function send() {
    if (!isReady) return;
    add.mutate(
      {
        kind,
        title: named,
        sheet_id: kind === "cast" ? sheetId : null,
        mould_id: kind === "own" ? null : mouldId,
        due: due ? withOffset(new Date(due)) : null,
        minutes: kind === "own" ? Number(minutes) : 60,
        finish: kind === "cast" ? finished.wish : null,
        release: kind === "cast" ? finished.release : "",
      },
      { onSuccess: () => setTitle("") },
    );
  }

  return (
    <form
      className="card add-job"
      aria-label="Add a job"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <h2>Add a job</h2>
      <Radio.Group
        value={kind}
        onChange={(event) => setKind(event.target.value as Kind)}
        optionType="button"
        options={[
          { value: "cast", label: "A cast" },
          { value: "mould", label: "A mould" },
          { value: "own", label: "A task" },
        ]}
      />
      {kind === "cast" && (
        <div className="field">
          <label htmlFor="job-sheet">Cast sheet</label>
          <Select
            id="job-sheet"
            showSearch
            optionFilterProp="label"
            value={sheetId}
            onChange={setSheetId}
            options={(sheets.data ?? []).map((one) => ({ value: one.id, label: one.name }))}
          />
        </div>
      )}
      {kind !== "own" && (
        <div className="field">
          <label htmlFor="job-mould">{kind === "cast" ? "In which mould" : "Mould to build"}</label>
          <Select
            id="job-mould"
            showSearch
            allowClear
            optionFilterProp="label"
            value={mould ? mouldId : null}
            onChange={(id) => setMouldId(id ?? null)}
            options={ours.map((one) => ({ value: one.id, label: one.name }))}
          />
        </div>
      )}
      {kind === "cast" && <FinishFields value={finished} onChange={setFinished} />}
      {kind === "own" && (
        <div className="field">
          <label htmlFor="job-minutes">Minutes of work</label>
          <Input
            id="job-minutes"
            inputMode="numeric"
            value={minutes}
            onChange={(event) => setMinutes(event.target.value)}
          />
        </div>
      )}
      <div className="field">
        <label htmlFor="job-title">Name</label>
        <Input
          id="job-title"
          value={title}
          placeholder={named}
          maxLength={120}
          onChange={(event) => setTitle(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="job-due">Due, if it is</label>
        <Input
          id="job-due"
          type="datetime-local"
          value={due}
          onChange={(event) => setDue(event.target.value)}
        />
      </div>
      <Button type="primary" htmlType="submit" disabled={!isReady} loading={add.isPending}>
        Add it
      </Button>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
