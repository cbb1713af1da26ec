import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import type { SheetQuestion } from "../../api/client";
import { isOpen, jobQuery, useCancelJob, useWhenDone } from "../jobs/queries";
import { settledQuery } from "./queries";

/** So long nothing is changed before a simulation is begun. */
const AT_REST_MS = 900;

/** The wall of a plan, simulated a moment after the last change; what was under way is dropped. */
export function useSettled(question: SheetQuestion, wanted: boolean) {
  const said = JSON.stringify(question);
  const [atRest, setAtRest] = useState<string | null>(null);
  const [under, setUnder] = useState<string | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setAtRest(said), AT_REST_MS);
    return () => clearTimeout(timer);
  }, [said]);
  const enabled = wanted && atRest === said;
  const settled = useQuery({ ...settledQuery(question, under), enabled });
  const jobId = settled.data?.job?.id ?? null;
  const job = useQuery({ ...jobQuery(jobId ?? ""), enabled: enabled && jobId !== null });
  const known = jobId === null ? undefined : job.data;
  const open = known && isOpen(known) ? known.id : null;
  if (enabled && open !== null && open !== under) setUnder(open);
  useWhenDone(known, ["settled", "plan", "sheets"], () => setUnder(null));
  // Once it is not said how the mould is turned, nobody waits for its wall.
  const { mutate: cancel } = useCancelJob();
  const idle = wanted ? null : under;
  useEffect(() => {
    if (idle !== null) cancel(idle, { onSettled: () => setUnder(null) });
  }, [idle, cancel]);
  return {
    run: enabled ? (settled.data?.run ?? null) : null,
    job: enabled ? known : undefined,
    error: enabled ? settled.error : null,
  };
}
