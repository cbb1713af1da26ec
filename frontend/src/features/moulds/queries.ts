import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import {
  client,
  unwrap,
  type Mould,
  type MouldEventKind,
  type NewMould,
  type PlanQuestion,
} from "../../api/client";
import { refreshWithout } from "../../shared/deleted";
import { TO_CHOOSE_FROM, untilDrawn, type ListPage } from "../../shared/paging";

/** A page of the moulds: a name and what each takes. */
export const mouldPageQuery = (page: ListPage) =>
  queryOptions({
    queryKey: ["moulds", "list", page],
    queryFn: () => unwrap(client.GET("/api/v1/moulds", { params: { query: page } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => untilDrawn(state.data),
  });

/** The newest moulds, to choose from. */
export const mouldsQuery = () =>
  queryOptions({
    ...mouldPageQuery(TO_CHOOSE_FROM),
    refetchInterval: false,
    select: (answer) => answer.moulds,
  });

export const mouldQuery = (id: string) =>
  queryOptions({
    queryKey: ["moulds", id],
    queryFn: () => unwrap(client.GET("/api/v1/moulds/{id}", { params: { path: { id } } })),
  });

/** What a mould as it stands in the form would take. */
export const mouldPreviewQuery = (body: NewMould) =>
  queryOptions({
    queryKey: ["moulds", "preview", body],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/moulds/preview", { body, signal })),
    enabled: Boolean(body.piece_id && body.rubber_id && body.shell_id),
    placeholderData: keepPreviousData,
  });

export const mouldPlanQuery = (mould: Mould, body: PlanQuestion) =>
  queryOptions({
    // Apart from the moulds: a change asks for the mould first, and only then for its plan.
    queryKey: ["mould plan", mould.id, mould.version, mould.studied, body],
    queryFn: ({ signal }) =>
      unwrap(
        client.POST("/api/v1/moulds/{id}/plan", {
          params: { path: { id: mould.id } },
          body,
          signal,
        }),
      ),
    enabled: mould.studied,
    placeholderData: keepPreviousData,
  });

export const catalystQuery = (share: number, fast_share: number, temperature_k: number) =>
  queryOptions({
    queryKey: ["catalyst", share, fast_share, temperature_k],
    queryFn: () =>
      unwrap(client.POST("/api/v1/catalyst", { body: { share, fast_share, temperature_k } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Every change of a mould is seen wherever moulds are. */
function useMouldChange<Given, Answer>(send: (given: Given) => Promise<Answer>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["moulds"] }),
        queries.invalidateQueries({ queryKey: ["jobs"] }),
      ]),
  });
}

export const useAddMould = () =>
  useMouldChange((body: NewMould) => unwrap(client.POST("/api/v1/moulds", { body })));

export const useEditMould = (id: string) =>
  useMouldChange((body: NewMould & { version: number }) =>
    unwrap(client.PUT("/api/v1/moulds/{id}", { params: { path: { id } }, body })),
  );

export function useDeleteMould(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/moulds/{id}", { params: { path: { id } } })),
    onSuccess: () =>
      Promise.all([
        refreshWithout(queries, "moulds", id),
        queries.invalidateQueries({ queryKey: ["jobs"] }),
      ]),
  });
}

export const useStudyMould = (id: string) =>
  useMouldChange(() =>
    unwrap(client.POST("/api/v1/moulds/{id}/study", { params: { path: { id } } })),
  );

export const useMouldEvent = (id: string) =>
  useMouldChange((body: { kind: MouldEventKind; note: string }) =>
    unwrap(client.POST("/api/v1/moulds/{id}/events", { params: { path: { id } }, body })),
  );

export const useTickCheck = (id: string) =>
  useMouldChange((body: { check: string; done: boolean }) =>
    unwrap(client.PUT("/api/v1/moulds/{id}/checks", { params: { path: { id } }, body })),
  );

export const useRetireMould = (id: string) =>
  useMouldChange((retired: boolean) =>
    unwrap(
      client.PUT("/api/v1/moulds/{id}/retired", { params: { path: { id } }, body: { retired } }),
    ),
  );
