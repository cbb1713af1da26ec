import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type CureQuestion, type SheetQuestion } from "../../api/client";
import { cancelJob } from "../jobs/queries";
import { TO_CHOOSE_FROM, untilDrawn, type ListPage } from "../../shared/paging";

/** A page of the sheets: a name and a few figures each. */
export const sheetPageQuery = (page: ListPage) =>
  queryOptions({
    queryKey: ["sheets", "list", page],
    queryFn: () => unwrap(client.GET("/api/v1/sheets", { params: { query: page } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => untilDrawn(state.data),
  });

/** The newest sheets, to choose from. */
export const sheetsQuery = () =>
  queryOptions({
    ...sheetPageQuery(TO_CHOOSE_FROM),
    refetchInterval: false,
    select: (answer) => answer.sheets,
  });

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: ["sheets", id],
    queryFn: () => unwrap(client.GET("/api/v1/sheets/{id}", { params: { path: { id } } })),
  });

/** The plan for what stands on the left now; the last one stays until the new one is there. */
export const planQuery = (question: SheetQuestion) =>
  queryOptions({
    queryKey: ["plan", question],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/v1/sheets/preview", { body: question, signal })),
    placeholderData: keepPreviousData,
    enabled: Boolean(question.piece_id && question.material_id),
    // A kept sheet comes with its plan: that is not asked for again at once.
    staleTime: 2_000,
    gcTime: 60_000,
  });

/** A plan settled by simulating its coats, else the job that does it. */
export const settledQuery = (question: SheetQuestion) =>
  queryOptions({
    queryKey: ["settled", question],
    queryFn: async ({ signal }) => {
      const answer = await unwrap(client.POST("/api/v1/sheets/settle", { body: question }));
      // Nobody waits for it any more.
      if (signal.aborted && answer.job) void cancelJob(answer.job.id);
      return answer;
    },
    // A refused job is not asked for again by itself.
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: false,
    gcTime: 60_000,
  });

/** The same wall in more or fewer coats; those that are being settled are asked for again. */
export const choicesQuery = (question: SheetQuestion) =>
  queryOptions({
    queryKey: ["settled", "choices", question],
    queryFn: () => tellChoices(question, {}),
    refetchInterval: ({ state }) => (state.data?.open ? 1500 : false),
    gcTime: 60_000,
  });

/** What shall become of those that are not settled. */
export const tellChoices = (
  question: SheetQuestion,
  what: { readonly settle?: boolean; readonly stop?: boolean },
) => unwrap(client.POST("/api/v1/sheets/choices", { body: { ...question, ...what } }));

/** The same wall by every school. */
export const schoolsQuery = (question: SheetQuestion) =>
  queryOptions({
    queryKey: ["plan", "schools", question],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/v1/sheets/schools", { body: question, signal })),
    gcTime: 60_000,
  });

export const cureQuery = (body: CureQuestion) =>
  queryOptions({
    queryKey: ["cure", body],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/cure", { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });

type Kept = SheetQuestion & { name: string };

export function useAddSheet() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Kept) => unwrap(client.POST("/api/v1/sheets", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["sheets", "list"] }),
  });
}

export function useEditSheet(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Kept & { version: number }) =>
      unwrap(client.PUT("/api/v1/sheets/{id}", { params: { path: { id } }, body })),
    onSuccess: (sheet) => {
      queries.setQueryData(["sheets", id], sheet);
      return queries.invalidateQueries({ queryKey: ["sheets", "list"] });
    },
  });
}

export function useDeleteSheet(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/sheets/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      queries.removeQueries({ queryKey: ["sheets", id] });
      return queries.invalidateQueries({ queryKey: ["sheets", "list"] });
    },
  });
}
