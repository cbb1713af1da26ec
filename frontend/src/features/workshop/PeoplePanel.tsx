import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input } from "antd";
import { useState } from "react";

import type { Worker } from "../../api/client";
import { day } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { peopleQuery, useSetPeople } from "./peopleQueries";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;

/** One person as the form has them: hours typed for each of some weekdays. */
interface Row {
  name: string;
  opens: string;
  closes: string;
  evening: string;
  weekdays: number[];
  kept: Worker | null;
}

/** Who works here and when; the days are planned within it. */
export function PeoplePanel() {
  const people = useQuery(peopleQuery());
  if (people.isPending) return <Loading what="who works here" />;
  if (people.isError) return <Failed error={people.error} retry={() => void people.refetch()} />;
  return <PeopleForm key={people.dataUpdatedAt} people={people.data} />;
}

function PeopleForm({ people }: { people: readonly Worker[] }) {
  const [rows, setRows] = useState(() => people.map(rowOf));
  const save = useSetPeople();
  const change = (at: number, to: Partial<Row>) =>
    setRows(rows.map((row, number) => (number === at ? { ...row, ...to } : row)));
  const isReady =
    rows.length > 0 && rows.every((row) => row.name.trim() && row.opens && row.closes);
  return (
    <form
      className="card people"
      aria-label="People"
      onSubmit={(event) => {
        event.preventDefault();
        if (isReady) save.mutate(rows.map(workerOf));
      }}
    >
      <h2>People</h2>
      <p className="faint">
        Who works here, and when. An evening is given up only where it saves more than two hours.
      </p>
      {rows.map((row, at) => (
        <fieldset key={at}>
          <legend className="out-of-sight">{row.name || "New person"}</legend>
          <label>
            Person
            <Input
              value={row.name}
              maxLength={120}
              onChange={(event) => change(at, { name: event.target.value })}
            />
          </label>
          <label>
            From
            <Input
              type="time"
              value={row.opens}
              onChange={(event) => change(at, { opens: event.target.value })}
            />
          </label>
          <label>
            Until
            <Input
              type="time"
              value={row.closes}
              onChange={(event) => change(at, { closes: event.target.value })}
            />
          </label>
          <label>
            Of an evening until
            <Input
              type="time"
              value={row.evening}
              onChange={(event) => change(at, { evening: event.target.value })}
            />
          </label>
          <Checkbox.Group
            value={row.weekdays}
            onChange={(weekdays) => change(at, { weekdays })}
            options={DAYS.map((label, value) => ({ label, value }))}
          />
          {row.kept && isUneven(row.kept) && (
            <p className="faint">
              {row.kept.hours
                .map(
                  (one) =>
                    `${DAYS[one.weekday]} ${clockOf(one.opens_h)} to ${clockOf(one.closes_h)}`,
                )
                .join(", ")}
            </p>
          )}
          {row.kept?.extra.map((one) => (
            <p key={one.day} className="faint">
              {day(one.day)}, {clockOf(one.opens_h)} to {clockOf(one.closes_h)}
            </p>
          ))}
          <Button onClick={() => setRows(rows.filter((_, number) => number !== at))}>
            Delete {row.name}
          </Button>
        </fieldset>
      ))}
      <span className="actions">
        <Button onClick={() => setRows([...rows, rowOf(null)])}>Add a person</Button>
        <Button type="primary" htmlType="submit" disabled={!isReady} loading={save.isPending}>
          Save people
        </Button>
      </span>
      {save.error && <Failed error={save.error} />}
    </form>
  );
}

/** Whether somebody has other hours on one day than on another. */
function isUneven(worker: Worker): boolean {
  const told = worker.hours.map((one) => `${one.opens_h} ${one.closes_h} ${one.evening_h}`);
  return new Set(told).size > 1;
}

function rowOf(worker: Worker | null): Row {
  const first = worker?.hours[0];
  return {
    name: worker?.name ?? "",
    opens: clockOf(first?.opens_h ?? 8),
    closes: clockOf(first?.closes_h ?? 18),
    evening: first?.evening_h ? clockOf(first.evening_h) : "",
    weekdays: worker ? worker.hours.map((one) => one.weekday) : [0, 1, 2, 3, 4],
    kept: worker,
  };
}

function workerOf(row: Row): Worker {
  const known = new Map(row.kept?.hours.map((one) => [one.weekday, one]));
  const typed = hoursIn(row);
  const first = row.kept && hoursIn(rowOf(row.kept));
  // Who has other hours on a Friday keeps them, until other hours are typed for all days.
  const isTyped = JSON.stringify(typed) !== JSON.stringify(first);
  return {
    name: row.name.trim(),
    zone: row.kept?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
    hours: [...row.weekdays]
      .sort((one, other) => one - other)
      .map((weekday) => (isTyped ? undefined : known.get(weekday)) ?? { weekday, ...typed }),
    skills: row.kept?.skills ?? [],
    days_off: row.kept?.days_off ?? [],
    extra: row.kept?.extra ?? [],
  };
}

/** The hours that are typed, from midnight: what ends before it begins ends on the next day. */
function hoursIn(row: Row) {
  const opens_h = hoursOf(row.opens);
  const closes = hoursOf(row.closes);
  const closes_h = closes > opens_h ? closes : closes + 24;
  const evening = row.evening ? hoursOf(row.evening) : 0;
  const evening_h = !row.evening || evening >= closes_h ? evening : evening + 24;
  return { opens_h, closes_h, evening_h };
}

/** Hours of a day as a clock field holds them. */
function clockOf(hours: number): string {
  const minutes = Math.round(hours * 60);
  const two = (value: number) => String(value).padStart(2, "0");
  return `${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`;
}

function hoursOf(clock: string): number {
  const [hours = 0, minutes = 0] = clock.split(":").map(Number);
  return hours + minutes / 60;
}
