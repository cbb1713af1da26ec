import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type ChainQuestion, type ResinValues } from "../../api/client";

export const materialListQuery = (search: string) =>
  queryOptions({
    queryKey: ["materials", { search }],
    queryFn: () => unwrap(client.GET("/api/v1/materials", { params: { query: { search } } })),
    placeholderData: keepPreviousData,
  });

/** The first casting resins by name: all of them in any usual workshop. */
export const materialsQuery = () =>
  queryOptions({ ...materialListQuery(""), select: (answer) => answer.materials });

export const materialQuery = (id: string) =>
  queryOptions({
    queryKey: ["materials", id],
    queryFn: () => unwrap(client.GET("/api/v1/materials/{id}", { params: { path: { id } } })),
  });

interface Filled {
  name: string;
  sheet: ResinValues;
}

export function useAddResin() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Filled) => unwrap(client.POST("/api/v1/materials", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["materials"] }),
  });
}

export function useEditResin(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Filled & { version: number }) =>
      unwrap(client.PUT("/api/v1/materials/{id}", { params: { path: { id } }, body })),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["materials"] }),
        queries.invalidateQueries({ queryKey: ["sheets"] }),
      ]),
  });
}

export function useDeleteResin(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/materials/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      queries.removeQueries({ queryKey: ["materials", id] });
      return queries.invalidateQueries({ queryKey: ["materials"] });
    },
  });
}

export const supplyListQuery = (kind: string | null, search: string) =>
  queryOptions({
    queryKey: ["supplies", { kind, search }],
    queryFn: () => {
      const query = kind === null ? { search } : { search, kind };
      return unwrap(client.GET("/api/v1/supplies", { params: { query } }));
    },
    placeholderData: keepPreviousData,
  });

export const suppliesQuery = () =>
  queryOptions({ ...supplyListQuery(null, ""), select: (answer) => answer.supplies });

/** The chain for what is asked now; the last one stays until the new one is there. */
export const chainQuery = (question: ChainQuestion) =>
  queryOptions({
    queryKey: ["chain", question],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/chain", { body: question, signal })),
    placeholderData: keepPreviousData,
  });

interface CastsOfSheet {
  sheet_id: string;
  casts: number;
}

export const buyQuery = (casts: CastsOfSheet[]) =>
  queryOptions({
    queryKey: ["buying", casts],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/buying", { body: { casts }, signal })),
    enabled: casts.length > 0,
    placeholderData: keepPreviousData,
  });

export const lotsQuery = () =>
  queryOptions({
    queryKey: ["lots"],
    queryFn: () => unwrap(client.GET("/api/v1/lots")),
    select: (answer) => answer.lots,
  });

interface NewLot {
  material_id: string;
  label: string;
  bought_kg: number;
  opened_on: string | null;
  expires_on: string;
}

export function useAddLot() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ opened_on, ...rest }: NewLot) =>
      unwrap(client.POST("/api/v1/lots", { body: opened_on ? { ...rest, opened_on } : rest })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["lots"] }),
  });
}

export function useDeleteLot() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(client.DELETE("/api/v1/lots/{id}", { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["lots"] }),
  });
}
