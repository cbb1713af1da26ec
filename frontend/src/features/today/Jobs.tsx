import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { Today } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { clockTime, counted, day, duration } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { fieldOf, withOffset } from "../../shared/when";
import { collisionsQuery, useEndJob, useMakeChange, useSetDue } from "./queries";

type Job = Today["jobs"][number];

/** What was put into the days: when it is done, when it is due, and what would free it. */
export function Jobs({ today }: { today: Today }) {
  const end = useEndJob();
  const refuse = useNotices((state) => state.refuse);
  if (today.jobs.length === 0) return null;
  return (
    <section className="card" aria-label="Jobs that are planned">
      <h2>Jobs</h2>
      {!today.planned && <p className="due">Something is not planned yet: plan again.</p>}
      {today.standing === "none" && (
        <p className="due">Nothing fits: the working hours leave no room. Open longer, or later.</p>
      )}
      {today.evenings > 0 && <p>{counted(today.evenings, "evening")} given up.</p>}
      {today.jobs.some((job) => job.late_s > 0) && <WaysOut />}
      <ul className="jobs-in-days">
        {today.jobs.map((job) => (
          <li key={job.id}>
            <span>
              <b>{job.title}</b>
              <br />
              {job.ends ? (
                <span className="faint">
                  done by {day(job.ends)}, {clockTime(job.ends)}
                </span>
              ) : (
                <span className="faint">not planned</span>
              )}
              {job.late_s > 0 && (
                <span className="due"> {duration(Math.round(job.late_s / 60) * 60)} late</span>
              )}
              <DueField job={job} />
              {job.pour_id && (
                <>
                  {" "}
                  <Link to={`/log/${job.pour_id}/finish`}>Finish</Link>
                </>
              )}
            </span>
            <Button
              size="small"
              aria-label={`Remove: ${job.title}`}
              onClick={() => end.mutate(job.id, { onError: refuse })}
            >
              Remove
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** When a job is due; changed in place. */
function DueField({ job }: { job: Job }) {
  const [isOpen, setIsOpen] = useState(false);
  const [due, setDue] = useState(job.due ? fieldOf(new Date(job.due)) : "");
  const save = useSetDue(job.id);
  const refuse = useNotices((state) => state.refuse);
  const send = (to: string | null) =>
    save.mutate(to, {
      onSuccess: () => setIsOpen(false),
      onError: refuse,
    });
  if (!isOpen)
    return (
      <>
        <br />
        <Button type="link" size="small" className="due-press" onClick={() => setIsOpen(true)}>
          {job.due ? `due ${day(job.due)}, ${clockTime(job.due)}` : "no due date"}
          <span className="out-of-sight">: change it for {job.title}</span>
        </Button>
      </>
    );
  return (
    <span className="inline due-field">
      <Input
        type="datetime-local"
        aria-label={`Due: ${job.title}`}
        value={due}
        onChange={(event) => setDue(event.target.value)}
      />
      <Button
        size="small"
        loading={save.isPending}
        onClick={() => send(due ? withOffset(new Date(due)) : null)}
      >
        Save the date
      </Button>
      <Button size="small" onClick={() => setIsOpen(false)}>
        Cancel
      </Button>
    </span>
  );
}

/** Which wishes cannot be kept together, and the changes that free them; asked for by a press. */
function WaysOut() {
  const [isAsked, setIsAsked] = useState(false);
  const found = useQuery(collisionsQuery(isAsked));
  const change = useMakeChange();
  const refuse = useNotices((state) => state.refuse);
  if (!isAsked)
    return <Button onClick={() => setIsAsked(true)}>What would keep it in time?</Button>;
  if (found.isPending) return <Loading what="what could be changed" />;
  if (found.isError) return <Failed error={found.error} retry={() => void found.refetch()} />;
  return (
    <div role="status" className="ways-out">
      {found.data.collides.length > 0 && (
        <p>
          {found.data.collides.length === 1 ? "Cannot be kept: " : "Cannot be kept together: "}
          {found.data.collides.join("; ")}.
        </p>
      )}
      {found.data.ways_out.length === 0 && <p>Nothing that was tried keeps it in time.</p>}
      <ul className="jobs-in-days">
        {found.data.ways_out.map((one) => (
          <li key={one.kind + one.text}>
            <span>
              <b>{one.text}</b>{" "}
              <span className="faint">
                done by {day(one.ends)}, {clockTime(one.ends)}
              </span>
            </span>
            <Button
              size="small"
              aria-label={`Take: ${one.text}`}
              loading={change.isPending}
              onClick={() => change.press({ kind: one.kind, of: one.of }, refuse)}
            >
              Take
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}
