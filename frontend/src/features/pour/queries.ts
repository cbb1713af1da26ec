import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type Pour, type PourStep, type PourSummary } from "../../api/client";
import { TO_CHOOSE_FROM, type ListPage } from "../../shared/paging";

/** A page of the pours, those of one state or all. */
export const pourPageQuery = (page: ListPage, status?: PourSummary["status"]) =>
  queryOptions({
    queryKey: ["pours", "list", page, status ?? "all"],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/pours", { params: { query: { ...page, ...(status && { status }) } } }),
      ),
    placeholderData: keepPreviousData,
  });

/** What is being poured now. */
export const openPoursQuery = () =>
  queryOptions({ ...pourPageQuery(TO_CHOOSE_FROM, "open"), select: (answer) => answer.pours });

export const pourQuery = (id: string) =>
  queryOptions({
    queryKey: ["pours", id],
    queryFn: () => unwrap(client.GET("/api/v1/pours/{id}", { params: { path: { id } } })),
  });

export function useStartPour() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (sheet_id: string) => unwrap(client.POST("/api/v1/pours", { body: { sheet_id } })),
    onSuccess: (pour) => {
      queries.setQueryData(["pours", pour.id], pour);
      return queries.invalidateQueries({ queryKey: ["pours", "list"] });
    },
  });
}

/** What every change of a pour does: keep the answer, or on a refusal fetch how it stands. */
function usePourChange<T>(id: string, change: (body: T) => Promise<Pour>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: (pour) => {
      queries.setQueryData(["pours", id], pour);
      return queries.invalidateQueries({ queryKey: ["pours", "list"] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ["pours", id] }),
  });
}

export interface Tick {
  coat: number;
  step: PourStep;
  parts?: { a: number; b: number };
  /** When it was done, if not now. */
  at?: string;
}

export function useTick(id: string) {
  return usePourChange(id, (body: Tick) =>
    unwrap(client.POST("/api/v1/pours/{id}/steps", { params: { path: { id } }, body })),
  );
}

export function useTakeBack(id: string) {
  return usePourChange(id, () =>
    unwrap(client.DELETE("/api/v1/pours/{id}/steps/last", { params: { path: { id } } })),
  );
}

interface Closing {
  status: "cast" | "spoilt";
  cast_kg: number | null;
  note: string;
}

export function useClosePour(id: string) {
  return usePourChange(id, ({ cast_kg, ...rest }: Closing) =>
    unwrap(
      client.POST("/api/v1/pours/{id}/close", {
        params: { path: { id } },
        body: cast_kg === null ? rest : { ...rest, cast_kg },
      }),
    ),
  );
}

export function useEditNote(id: string) {
  return usePourChange(id, (note: string) =>
    unwrap(client.PUT("/api/v1/pours/{id}/note", { params: { path: { id } }, body: { note } })),
  );
}

/** What is still to add when more of a part was poured than was wanted. */
export const followQuery = (wanted: number[], poured: number[]) =>
  queryOptions({
    queryKey: ["follow", wanted, poured],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/v1/mix/follow", { body: { wanted, poured }, signal })),
    placeholderData: keepPreviousData,
  });
