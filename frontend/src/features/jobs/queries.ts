import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { client, unwrap, type Job } from "../../api/client";

const OFTEN_MS = 150;
const SELDOM_MS = 1500;

export const isOpen = (job: Job) => job.status === "waiting" || job.status === "running";

/** A job, asked for again until it is ended. */
export const jobQuery = (id: string) =>
  queryOptions({
    queryKey: ["jobs", id],
    queryFn: () => unwrap(client.GET("/api/v1/jobs/{id}", { params: { path: { id } } })),
    refetchInterval: ({ state }) => (state.data && !isOpen(state.data) ? false : OFTEN_MS),
  });

/** The jobs of a kind that are not ended. */
export const openJobsQuery = (kind: Job["kind"]) =>
  queryOptions({
    queryKey: ["jobs", "open", kind],
    queryFn: () => unwrap(client.GET("/api/v1/jobs", { params: { query: { kind } } })),
    select: (answer) => answer.jobs,
    refetchInterval: ({ state }) => (state.data?.jobs.length ? SELDOM_MS : false),
  });

/** Sent also while the page is being left. */
export const cancelJob = (id: string) =>
  unwrap(client.DELETE("/api/v1/jobs/{id}", { params: { path: { id } }, keepalive: true }));

export function useCancelJob() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: cancelJob,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["jobs"] }),
  });
}

/** Calls back once when a job is done, after what it changed is asked for again. */
export function useWhenDone(job: Job | undefined, changed: readonly string[], then: () => void) {
  const queries = useQueryClient();
  const done = job?.status === "done";
  useEffect(() => {
    if (!done) return;
    void Promise.all(changed.map((key) => queries.invalidateQueries({ queryKey: [key] }))).then(
      then,
    );
    // Once, when it becomes done.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [done]);
}
