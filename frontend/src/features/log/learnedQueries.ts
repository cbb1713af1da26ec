import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type CastRun } from "../../api/client";
import { refreshWithout } from "../../shared/deleted";

/** What pours taught of the resin and the mould of a sheet. */
export const learnedQuery = (sheet: string) =>
  queryOptions({
    queryKey: ["learned", sheet],
    queryFn: () =>
      unwrap(client.GET("/api/v1/sheets/{id}/learned", { params: { path: { id: sheet } } })),
    select: (answer) => answer.values,
  });

export const runsQuery = () =>
  queryOptions({
    queryKey: ["runs"],
    queryFn: () => unwrap(client.GET("/api/v1/runs")),
    select: (answer) => answer.runs,
  });

export const runQuery = (id: string) =>
  queryOptions({
    queryKey: ["runs", id],
    queryFn: () => unwrap(client.GET("/api/v1/runs/{id}", { params: { path: { id } } })),
  });

export const lifeQuery = (mould: string) =>
  queryOptions({
    queryKey: ["moulds", mould, "life"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/moulds/{id}/life", { params: { path: { id: mould } } })),
  });

export const besideQuery = (pours: readonly string[]) =>
  queryOptions({
    queryKey: ["beside", ...pours],
    queryFn: () =>
      unwrap(client.GET("/api/v1/pours/beside", { params: { query: { pours: [...pours] } } })),
    enabled: pours.length > 0,
  });

export interface NewRun {
  name: string;
  sheet_id: string;
  mould_ids: string[];
  wanted: number;
  due_on: string;
}

export function useBeginRun() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: NewRun) => unwrap(client.POST("/api/v1/runs", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
}

export function useEndRun(run: CastRun) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (ended: boolean) =>
      unwrap(
        client.PUT("/api/v1/runs/{id}/ended", {
          params: { path: { id: run.id } },
          body: { ended },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
}

export function useDeleteRun(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/runs/{id}", { params: { path: { id } } })),
    onSuccess: () => refreshWithout(queries, "runs", id),
  });
}
