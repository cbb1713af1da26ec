import { queryOptions, useMutation } from "@tanstack/react-query";
import { create } from "zustand";
import { persist } from "zustand/middleware";

import { client, unwrap, type NewTry, type Try } from "../../api/client";

export const exercisesQuery = () =>
  queryOptions({
    queryKey: ["practice", "exercises"],
    queryFn: () => unwrap(client.GET("/api/v1/practice/exercises")),
    staleTime: Infinity,
  });

export function useBegin() {
  return useMutation({
    mutationFn: (body: NewTry) => unwrap(client.POST("/api/v1/practice", { body })),
  });
}

/** What came of a try, once it is over. */
export const practisedQuery = (id: string) =>
  queryOptions({
    queryKey: ["practice", id, "practised"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/practice/{id}/practised", { params: { path: { id } } })),
    staleTime: Infinity,
  });

/** The same coat by the shipped patterns: some seconds of the server's. */
export const patternsQuery = (id: string) =>
  queryOptions({
    queryKey: ["practice", id, "patterns"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/practice/{id}/patterns", { params: { path: { id } } })),
    staleTime: Infinity,
  });

/** A try as it is remembered in this browser. */
export interface Remembered {
  at: string;
  exercise: Try["exercise"];
  piece: string;
  evenness: number;
  under: number;
  spilt_kg: number;
  never_wet: number;
  reached: boolean;
}

const MOST_REMEMBERED = 20;

interface TriesState {
  tries: Remembered[];
  remember: (one: Remembered) => void;
}

/** One's last tries, the newest first; they are nobody else's. */
export const useTries = create<TriesState>()(
  persist(
    (set) => ({
      tries: [],
      remember: (one) => set(({ tries }) => ({ tries: [one, ...tries].slice(0, MOST_REMEMBERED) })),
    }),
    { name: "husk-practice" },
  ),
);
