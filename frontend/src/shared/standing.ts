import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { client, unwrap, type Right } from "../api/client";

/** The workshop: its hours, currency, equipment, and what a wish begins with. */
export const workshopQuery = () =>
  queryOptions({
    queryKey: ["workshop"],
    queryFn: () => unwrap(client.GET("/api/v1/workshop")),
    staleTime: Infinity,
  });

/** The shipped ways to turn a mould, by hand and by machine. */
export const motionsQuery = () =>
  queryOptions({
    queryKey: ["motions"],
    queryFn: () => unwrap(client.GET("/api/v1/motions")),
    select: (answer) => answer.motions,
    staleTime: Infinity,
  });

/** Published sizes of heads. */
export const headsQuery = () =>
  queryOptions({
    queryKey: ["heads"],
    queryFn: () => unwrap(client.GET("/api/v1/heads")),
    staleTime: Infinity,
  });

/** The kinds of faults there are. */
export const faultKindsQuery = () =>
  queryOptions({
    queryKey: ["fault-kinds"],
    queryFn: () => unwrap(client.GET("/api/v1/fault-kinds")),
    select: (answer) => answer.kinds,
    staleTime: Infinity,
  });

/** Who asks, and what they may do here. */
export const accessQuery = () =>
  queryOptions({
    queryKey: ["access"],
    queryFn: () => unwrap(client.GET("/api/v1/access")),
    staleTime: Infinity,
  });

/** Whether whoever sits here may do that; as long as that is not known, they may. */
export function useMay(right: Right): boolean {
  // Asked for with what is the same on every page; nothing waits for it.
  const access = useQuery({ ...accessQuery(), enabled: false });
  return access.data?.rights.includes(right) ?? true;
}

/** After this long nothing more is asked for by the first page itself. [ms] */
const FIRST_PAGE_MS = 3000;

/** Asks for what is the same on every page while the first one is looked at. */
export function useStanding() {
  const queries = useQueryClient();
  useEffect(() => {
    const waited = setTimeout(() => {
      void queries.prefetchQuery(workshopQuery());
      void queries.prefetchQuery(accessQuery());
      void queries.prefetchQuery(motionsQuery());
      void queries.prefetchQuery(headsQuery());
      void queries.prefetchQuery(faultKindsQuery());
    }, FIRST_PAGE_MS);
    return () => clearTimeout(waited);
  }, [queries]);
}
