import { queryOptions, useQuery } from "@tanstack/react-query";

import { client, unwrap, type WallQuestion } from "../../api/client";
import { fetchFilm } from "../../husk/film";
import { jobQuery, useWhenDone } from "../jobs/queries";

const STILL_TRYING_MS = 1500;

/** The wall of a sheet's cast, else the job that computes it: asking again while it waits is free. */
const wallQuery = (sheetId: string, version: number, asked: WallQuestion) =>
  queryOptions({
    queryKey: ["walls", sheetId, version, asked],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/sheets/{id}/wall", { params: { path: { id: sheetId } }, body: asked }),
      ),
    // A refused job is not asked for again by itself.
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: false,
  });

export interface How {
  motion: string;
  capped: boolean;
  coats: number | null;
  /** So many times as heavy as each of the others the first coat is. */
  lead: number;
}

/** Edges of the first look, which comes at once, and of the wall that stands. [m] */
const FIRST_LOOK_M = 0.015;
const FINE_M = 0.006;

function useAsked(sheet: { id: string; version: number }, asked: WallQuestion, enabled: boolean) {
  const wall = useQuery({ ...wallQuery(sheet.id, sheet.version, asked), enabled });
  const jobId = wall.data?.job?.id ?? null;
  const job = useQuery({ ...jobQuery(jobId ?? ""), enabled: enabled && jobId !== null });
  const known = jobId === null ? undefined : job.data;
  useWhenDone(known, ["walls"], () => undefined);
  return { run: wall.data?.run ?? null, job: known, error: wall.error };
}

/** A wall, as a first look first; the finer one as soon as it is there. */
export function useWall(sheet: { id: string; version: number }, how: How, enabled = true) {
  const rough = useAsked(sheet, { ...how, edge_m: FIRST_LOOK_M }, enabled);
  const fine = useAsked(sheet, { ...how, edge_m: FINE_M }, enabled && rough.run !== null);
  return {
    run: fine.run ?? rough.run,
    job: rough.run ? fine.job : rough.job,
    error: rough.error ?? fine.error,
  };
}

/** A coat on its way, or null where it was not simulated by itself. */
export const filmQuery = (runId: string, coat: number) =>
  queryOptions({
    queryKey: ["walls", runId, "film", coat],
    queryFn: () => fetchFilm(runId, coat),
    staleTime: Infinity,
  });

/** Other ways to turn the mould; asked again until all of them are known. */
export const motionTrialsQuery = (
  sheetId: string,
  version: number,
  byHand: boolean,
  capped: boolean,
) =>
  queryOptions({
    queryKey: ["trials", "motions", sheetId, version, byHand, capped],
    queryFn: () => tellMotions(sheetId, byHand, capped, {}),
    refetchInterval: ({ state }) => (state.data && state.data.open > 0 ? STILL_TRYING_MS : false),
  });

/** Charges of a first coat; asked again until all of them are known. */
export const chargeTrialsQuery = (
  sheetId: string,
  version: number,
  motion: string,
  capped: boolean,
) =>
  queryOptions({
    queryKey: ["trials", "charges", sheetId, version, motion, capped],
    queryFn: () => tellCharges(sheetId, motion, capped, {}),
    refetchInterval: ({ state }) => (state.data && state.data.open > 0 ? STILL_TRYING_MS : false),
  });

/** Stop what is still being tried, or try again what was stopped. */
export const tellMotions = (
  sheetId: string,
  byHand: boolean,
  capped: boolean,
  what: { stop?: boolean; again?: boolean },
) =>
  unwrap(
    client.POST("/api/v1/sheets/{id}/motions", {
      params: { path: { id: sheetId } },
      body: { by_hand: byHand, capped, stop: false, again: false, ...what },
    }),
  );

export const tellCharges = (
  sheetId: string,
  motion: string,
  capped: boolean,
  what: { stop?: boolean; again?: boolean },
) =>
  unwrap(
    client.POST("/api/v1/sheets/{id}/charges", {
      params: { path: { id: sheetId } },
      body: { motion, capped, stop: false, again: false, ...what },
    }),
  );
