import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import {
  client,
  unwrap,
  type BuyingQuestion,
  type ChainQuestion,
  type Kit,
  type ResinValues,
  type SheetValues,
} from "../../api/client";
import { refreshWithout } from "../../shared/deleted";

export const materialListQuery = (search: string) =>
  queryOptions({
    queryKey: ["materials", { search }],
    queryFn: () =>
      unwrap(client.GET("/api/v1/materials", { params: { query: { search, limit: 200 } } })),
    placeholderData: keepPreviousData,
  });

/** The first casting resins by name: all of them in any usual workshop. */
export const materialsQuery = () =>
  queryOptions({ ...materialListQuery(""), select: (answer) => answer.materials });

/** What a husk can be made of, each with the schools it is poured by. */
export const castablesQuery = () =>
  queryOptions({
    queryKey: ["castables"],
    queryFn: () => unwrap(client.GET("/api/v1/castables")),
    select: (answer) => answer.castables,
  });

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

export const supplyListQuery = (kind: string | null, search: string) =>
  queryOptions({
    queryKey: ["supplies", { kind, search }],
    queryFn: () => {
      const query = kind === null ? { search } : { search, kind };
      return unwrap(client.GET("/api/v1/supplies", { params: { query } }));
    },
    placeholderData: keepPreviousData,
  });

export const supplyQuery = (id: string) =>
  queryOptions({
    queryKey: ["supplies", id],
    queryFn: () => unwrap(client.GET("/api/v1/supplies/{id}", { params: { path: { id } } })),
  });

/** What a form asks for a material of a kind. */
export const formQuery = (kind: string) =>
  queryOptions({
    queryKey: ["forms", kind],
    queryFn: () => unwrap(client.GET("/api/v1/forms/{kind}", { params: { path: { kind } } })),
    select: (answer) => answer.fields,
    staleTime: Infinity,
  });

interface FilledSupply {
  name: string;
  sheet: SheetValues;
}

export function useAddSupply(kind: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: FilledSupply) =>
      unwrap(client.POST("/api/v1/supplies", { body: { ...body, kind } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["supplies"] }),
  });
}

export function useEditSupply(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: FilledSupply & { version: number }) =>
      unwrap(client.PUT("/api/v1/supplies/{id}", { params: { path: { id } }, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
}

/** Takes a material of any kind off the shelf. */
export function useDeleteMaterial(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/materials/{id}", { params: { path: { id } } })),
    onSuccess: () =>
      Promise.all([
        refreshWithout(queries, "materials", id),
        refreshWithout(queries, "supplies", id),
      ]),
  });
}

export const kitsQuery = (id: string) =>
  queryOptions({
    queryKey: ["kits", id],
    queryFn: () => unwrap(client.GET("/api/v1/materials/{id}/kits", { params: { path: { id } } })),
    select: (answer) => answer.kits,
  });

export function useSetKits(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (kits: Kit[]) =>
      unwrap(
        client.PUT("/api/v1/materials/{id}/kits", { params: { path: { id } }, body: { kits } }),
      ),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["kits", id] }),
        queries.invalidateQueries({ queryKey: ["buying"] }),
      ]),
  });
}

export const suppliesQuery = () =>
  queryOptions({ ...supplyListQuery(null, ""), select: (answer) => answer.supplies });

/** The chain for what is asked now; the last one stays until the new one is there. */
export const chainQuery = (question: ChainQuestion) =>
  queryOptions({
    queryKey: ["chain", question],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/chain", { body: question, signal })),
    placeholderData: keepPreviousData,
  });

export const buyQuery = (asked: Required<BuyingQuestion>) =>
  queryOptions({
    queryKey: ["buying", asked],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/buying", { body: asked, signal })),
    enabled: asked.casts.length + asked.moulds.length > 0,
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
  price: string | null;
}

export function useAddLot() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: NewLot) => unwrap(client.POST("/api/v1/lots", { body })),
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
