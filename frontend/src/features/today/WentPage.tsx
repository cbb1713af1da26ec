import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";

import type { HowItWent } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { clockTime, day, duration } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { howItWentQuery, keptPlansQuery, useDeleteKept, useKeepPlan } from "./queries";
import { TodayNav } from "./TodayNav";

/** Plans that were kept, each beside how it went. */
export function WentPage() {
  const kept = useQuery(keptPlansQuery());
  const [chosen, setChosen] = useState<string | null>(null);
  const shown = chosen ?? kept.data?.[0]?.id ?? null;
  const remove = useDeleteKept();
  const refuse = useNotices((state) => state.refuse);
  return (
    <section className="page">
      <header>
        <h1>Planned and actual</h1>
      </header>
      <TodayNav />
      {kept.isPending && <Loading what="the saved plans" />}
      {kept.isError && <Failed error={kept.error} retry={() => void kept.refetch()} />}
      <KeepForm onKept={setChosen} />
      {kept.data?.length === 0 && (
        <Nothing>No plan is saved yet. Save the current one, and see later how it went.</Nothing>
      )}
      {kept.data && kept.data.length > 0 && (
        <div className="inline went-choice">
          <label htmlFor="kept-plan">Saved plan</label>
          <Select
            id="kept-plan"
            className="wide"
            value={shown}
            onChange={setChosen}
            options={kept.data.map((one) => ({
              value: one.id,
              label: `${one.name}, ${day(one.made_at)}`,
            }))}
          />
          <Button
            onClick={() =>
              shown &&
              remove.mutate(shown, {
                onSuccess: () => setChosen(null),
                onError: refuse,
              })
            }
          >
            Delete it
          </Button>
        </div>
      )}
      <Went id={shown} />
    </section>
  );
}

function KeepForm({ onKept }: { onKept: (id: string) => void }) {
  const [name, setName] = useState("");
  const keep = useKeepPlan();
  return (
    <form
      className="inline"
      aria-label="Save the plan"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(name.trim(), {
          onSuccess: (made) => {
            setName("");
            onKept(made.id);
          },
        });
      }}
    >
      <label htmlFor="kept-name">Save the current plan as</label>
      <Input
        id="kept-name"
        className="wide"
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
      />
      <Button htmlType="submit" disabled={!name.trim()} loading={keep.isPending}>
        Save the plan
      </Button>
      {keep.error && <Failed error={keep.error} />}
    </form>
  );
}

function Went({ id }: { id: string | null }) {
  const went = useQuery(howItWentQuery(id));
  if (id === null || went.isPending) return null;
  if (went.isError) return <Failed error={went.error} retry={() => void went.refetch()} />;
  return (
    <table className="coats went">
      <thead>
        <tr>
          <th scope="col">Task</th>
          <th scope="col">For</th>
          <th scope="col">Planned</th>
          <th scope="col">Actual</th>
          <th scope="col">Began</th>
          <th scope="col">Took</th>
        </tr>
      </thead>
      <tbody>
        {went.data.tasks.map((one) => (
          <tr key={one.title + one.job_title + one.planned_starts}>
            <th scope="row">{one.title}</th>
            <td>{one.job_title}</td>
            <td>
              {day(one.planned_starts)}, {clockTime(one.planned_starts)} to{" "}
              {clockTime(one.planned_ends)}
            </td>
            <td>{actual(one)}</td>
            <td>{beside(one.late_s, "late", "early")}</td>
            <td>{beside(one.longer_s, "longer", "shorter")}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function actual(one: HowItWent["tasks"][number]): string {
  if (!one.starts) return "not begun";
  const from = `${day(one.starts)}, ${clockTime(one.starts)}`;
  return one.ends ? `${from} to ${clockTime(one.ends)}` : `${from}, going on`;
}

/** A difference in words; half a minute is none. */
function beside(seconds: number | null, more: string, less: string): string {
  if (seconds === null) return "";
  if (Math.abs(seconds) < 30) return "as planned";
  const by = duration(Math.round(Math.abs(seconds) / 60) * 60);
  return `${by} ${seconds > 0 ? more : less}`;
}
