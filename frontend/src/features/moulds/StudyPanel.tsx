import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect } from "react";

import type { Mould } from "../../api/client";
import { Failed } from "../../shared/states";
import { JobProgress } from "../jobs/JobProgress";
import { isOpen, jobQuery, openJobsQuery, useWhenDone } from "../jobs/queries";
import { useStudyMould } from "./queries";

/** The piece is studied for the mould by a worker; this asks for it, once, and shows how far it is. */
export function StudyPanel({ mould }: { mould: Mould }) {
  const open = useQuery(openJobsQuery("mould"));
  const study = useStudyMould(mould.id);
  const ours = open.data?.find((job) => job.mould_id === mould.id);
  const asked = useQuery({
    ...jobQuery(study.data?.id ?? ours?.id ?? ""),
    enabled: Boolean(study.data ?? ours),
  });
  const job = asked.data ?? study.data ?? ours;
  const { mutate, isIdle } = study;
  useEffect(() => {
    if (open.isSuccess && !ours && isIdle) mutate(undefined);
  }, [open.isSuccess, ours, isIdle, mutate]);
  useWhenDone(job, ["moulds"], () => undefined);
  return (
    <section className="card" aria-label="The piece is studied for it">
      <h2>The piece is studied for it</h2>
      <p>
        Where the rubber fills, how far it has to stretch, where a shell would lock: some seconds of
        a worker&apos;s time.
      </p>
      {study.error && <Failed error={study.error} />}
      {job && <JobProgress job={job} />}
      {job && !isOpen(job) && job.status !== "done" && (
        <Button onClick={() => mutate(undefined)}>Try again</Button>
      )}
    </section>
  );
}
