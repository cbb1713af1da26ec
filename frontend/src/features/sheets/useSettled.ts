import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import type { SheetQuestion } from "../../api/client";
import { cancelJob, jobQuery, useWhenDone } from "../jobs/queries";
import { settledQuery } from "./queries";

/** So long nothing is changed before a simulation is begun. */
const AT_REST_MS = 900;

/** So far a job is when its first look is known. */
const FIRST_LOOK_AT = 0.1;

/** A job, and the question it was asked with. */
interface UnderWay {
  readonly said: string;
  readonly jobId: string;
}

/**
 * The wall of a plan, simulated a moment after the last change, as long as somebody waits for it.
 * Of a kept sheet that is opened nothing was changed.
 */
export function useSettled(question: SheetQuestion, wanted: boolean, asKept: boolean) {
  const queries = useQueryClient();
  const said = JSON.stringify(question);
  const [atRest, setAtRest] = useState<string | null>(asKept ? said : null);
  const [under, setUnder] = useState<UnderWay | null>(null);
  const [stopped, setStopped] = useState<string | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setAtRest(said), AT_REST_MS);
    return () => clearTimeout(timer);
  }, [said]);
  const enabled = wanted && atRest === said;
  const settled = useQuery({ ...settledQuery(question), enabled });
  const jobId = settled.data?.job?.id ?? null;
  const job = useQuery({ ...jobQuery(jobId ?? ""), enabled: enabled && jobId !== null });
  const known = jobId === null ? undefined : job.data;
  useWhenDone(known, ["settled", "plan", "sheets"], () => setUnder(null));

  // A first look is kept before it goes on; it may be there from before.
  const isLooking = enabled && known?.status === "running" && known.share >= FIRST_LOOK_AT;
  const isSeen = Boolean(settled.data?.run);
  useEffect(() => {
    if (!isLooking || isSeen) return;
    for (const key of ["settled", "plan"]) void queries.invalidateQueries({ queryKey: [key] });
  }, [isLooking, isSeen, queries]);

  const { refetch } = settled;
  // Another window left the same plan.
  const isLost = enabled && known?.status === "cancelled" && stopped !== said;
  useEffect(() => {
    if (isLost) void refetch();
  }, [isLost, refetch]);

  const kept = wanted && (under === null || under.said === said);
  if (kept && jobId !== null && jobId !== under?.jobId && known?.status !== "done") {
    setUnder({ said, jobId });
  }
  const drop = useRef(() => {});
  useEffect(() => {
    drop.current = () => {
      if (!under) return;
      void cancelJob(under.jobId);
      // Who comes back to its question asks again.
      queries.removeQueries({
        queryKey: ["settled"],
        predicate: ({ state }) => (state.data as { job?: { id: string } })?.job?.id === under.jobId,
      });
      setUnder(null);
    };
    if (!kept) drop.current();
  });
  useEffect(() => {
    const leave = () => drop.current();
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
  return {
    run: enabled ? (settled.data?.run ?? null) : null,
    /** Whether there is one is not known yet. */
    isAsked: enabled && settled.isPending,
    job: enabled ? known : undefined,
    error: enabled ? settled.error : null,
    /** It was cancelled here: it is not begun again by itself. */
    stop: () => setStopped(said),
  };
}
