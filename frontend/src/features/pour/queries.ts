import {
  keepPreviousData,
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect } from "react";

import { client, ProblemError, unwrap, type Pour, type PourSummary } from "../../api/client";
import { useLive } from "../../shared/live";
import { TO_CHOOSE_FROM, type ListPage } from "../../shared/paging";
import { keepPour, keptPour } from "./kept";
import { onTaken, send, useOutbox } from "./outbox";
import { pressed } from "./presses";
import { offsetMs } from "./serverClock";

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

/** A server that says nothing for so long is away, where there is a kept pour to go on with. [ms] */
const PATIENCE_MS = 3_000;

/** One pour; as it was last told where the server is away. */
export const pourQuery = (id: string) =>
  queryOptions({
    queryKey: ["pours", id],
    queryFn: async ({ signal }) => {
      const kept = await keptPour(id);
      const patience = kept ? AbortSignal.any([signal, AbortSignal.timeout(PATIENCE_MS)]) : signal;
      const params = { path: { id } };
      try {
        const told = await unwrap(client.GET("/api/v1/pours/{id}", { params, signal: patience }));
        await keepPour(told);
        return told;
      } catch (error) {
        if (kept && isAway(error)) return kept;
        throw error;
      }
    },
  });

const isAway = (error: unknown) =>
  error instanceof ProblemError && (error.status === 0 || error.status >= 500);

/** A pour as it stands with every press, also those that the server has not taken yet. */
export function usePourInHand(id: string) {
  const queries = useQueryClient();
  const told = useQuery({ ...pourQuery(id), refetchInterval: 15_000 });
  const presses = useOutbox((state) => state.presses).filter((one) => one.pour === id);
  useEffect(
    () =>
      onTaken((pour) => {
        if (pour === null) return void queries.invalidateQueries({ queryKey: ["pours", id] });
        queries.setQueryData(["pours", pour.id], pour);
        void keepPour(pour);
        void queries.invalidateQueries({ queryKey: ["pours", "list"] });
      }),
    [queries, id],
  );
  useLive((event) => {
    if (event.topic === "look-anew" || (event.topic === "pour" && event.id === id)) {
      void queries.invalidateQueries({ queryKey: ["pours", id] });
      void send();
    }
  });
  const offset = offsetMs();
  const pour =
    told.data && presses.reduce((stands, one) => pressed(stands, one, offset), told.data);
  return { pour, presses, error: told.error, refetch: told.refetch };
}

export function useStartPour() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { sheet_id: string; mould_id: string | null }) =>
      unwrap(client.POST("/api/v1/pours", { body })),
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

/** Weighs a pour on a live scale, or by hand again. */
export function useOnScale(id: string) {
  const queries = useQueryClient();
  const params = { path: { id } };
  const settled = { onSettled: () => queries.invalidateQueries({ queryKey: ["pours", id] }) };
  const begin = useMutation({
    mutationFn: (device_id: string) =>
      unwrap(client.PUT("/api/v1/pours/{id}/scale", { params, body: { device_id } })),
    ...settled,
  });
  const end = useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/pours/{id}/scale", { params })),
    ...settled,
  });
  return { begin, end };
}

/** Tells the weighing what only a person knows. */
export const useAtScale = (id: string) =>
  useMutation({
    mutationFn: (press: "cup-is-on" | "accept") =>
      unwrap(
        client.POST("/api/v1/pours/{id}/scale/press", {
          params: { path: { id } },
          body: { press },
        }),
      ),
  });

/** Turns the coat in the mould on a machine, and stops it. */
export function useMachine(id: string) {
  const start = useMutation({
    mutationFn: (device_id: string) =>
      unwrap(
        client.PUT("/api/v1/pours/{id}/machine", { params: { path: { id } }, body: { device_id } }),
      ),
  });
  const stop = useMutation({
    mutationFn: (device: string) =>
      unwrap(client.POST("/api/v1/devices/{id}/stop", { params: { path: { id: device } } })),
  });
  return { start, stop };
}
