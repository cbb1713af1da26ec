import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import {
  client,
  unwrap,
  type DayBoard,
  type Finish,
  type FinishWish,
  type MovedTask,
  type NewDayJob,
  type OfferQuestion,
  type TaskTick,
  type Today,
} from "../../api/client";

/** The zone the reader's clock is in; working hours are told in it where nobody was named. */
export const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const KEY = ["days"] as const;
const BOARD = [...KEY, "board"] as const;
const TODAY = [...KEY, "today"] as const;

/** Today and the days to come; looked at again by itself, as time goes on. */
export const todayQuery = () =>
  queryOptions({
    queryKey: TODAY,
    queryFn: () => unwrap(client.GET("/api/v1/days")),
    refetchInterval: 20_000,
    // The parts of a page that show it are not there at the same moment.
    staleTime: 2_000,
  });

/** What cannot be kept together, and which changes free it: each is tried, so it takes seconds. */
export const collisionsQuery = (isAsked: boolean) =>
  queryOptions({
    queryKey: [...KEY, "collisions"],
    queryFn: () => unwrap(client.GET("/api/v1/days/collisions")),
    enabled: isAsked,
    staleTime: 0,
  });

/** Whatever changes the days answers with today; all else that shows them is looked at again. */
function useDaysChange<Given>(send: (given: Given) => Promise<Today>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (today) => {
      queries.setQueryData(TODAY, today);
      void queries.invalidateQueries({
        queryKey: KEY,
        predicate: ({ queryKey }) => queryKey[1] !== "today",
      });
      void queries.invalidateQueries({ queryKey: ["finish"] });
    },
  });
}

export const useAddJob = () =>
  useDaysChange((body: Omit<NewDayJob, "zone">) =>
    unwrap(client.POST("/api/v1/days/jobs", { body: { ...body, zone } })),
  );

/** Puts the casts into the days that a run still wants. */
export const useAddRun = () =>
  useDaysChange((run_id: string) =>
    unwrap(client.POST("/api/v1/days/runs", { body: { run_id, zone } })),
  );

export const useSetDue = (id: string) =>
  useDaysChange((due: string | null) =>
    unwrap(client.PUT("/api/v1/days/jobs/{id}", { params: { path: { id } }, body: { due, zone } })),
  );

export const useEndJob = () =>
  useDaysChange((id: string) =>
    unwrap(client.DELETE("/api/v1/days/jobs/{id}", { params: { path: { id } } })),
  );

export const useTickTask = () =>
  useDaysChange((body: Omit<TaskTick, "zone">) =>
    unwrap(client.POST("/api/v1/days/ticks", { body: { ...body, zone } })),
  );

export const usePlanAgain = () =>
  useDaysChange(() => unwrap(client.POST("/api/v1/days/plan", { body: { zone } })));

/** Makes a change that was found to free the days. */
export const useMakeChange = () => {
  const queries = useQueryClient();
  const made = useDaysChange((change: { kind: string; of: string }) =>
    unwrap(
      client.POST("/api/v1/days/changes", {
        body: { ...change, kind: change.kind as "a later date", zone },
      }),
    ),
  );
  return {
    ...made,
    press: (change: { kind: string; of: string }, onError: (error: unknown) => void) =>
      made.mutate(change, {
        onError,
        onSuccess: () => void queries.invalidateQueries({ queryKey: ["people"] }),
      }),
  };
};

// --- the board ---

export const boardQuery = () =>
  queryOptions({
    queryKey: BOARD,
    queryFn: () => unwrap(client.GET("/api/v1/days/board")),
    refetchInterval: 30_000,
  });

/** What a task breaks where it is put; nothing is changed. */
export const tryQuery = (put: MovedTask | null) =>
  queryOptions({
    queryKey: [...BOARD, "try", put],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/v1/days/board/tries", { body: put as MovedTask, signal })),
    enabled: put !== null,
    placeholderData: keepPreviousData,
  });

function useBoardChange<Given>(send: (given: Given) => Promise<DayBoard>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (board) => {
      queries.setQueryData(BOARD, board);
      void queries.invalidateQueries({ queryKey: TODAY });
    },
  });
}

export const useMoveTask = () =>
  useBoardChange((body: MovedTask) => unwrap(client.POST("/api/v1/days/board/moves", { body })));

export const useFreeTask = () =>
  useBoardChange((task: string) =>
    unwrap(client.POST("/api/v1/days/board/freed", { body: { task, zone } })),
  );

// --- kept plans, calendar, offers ---

export const keptPlansQuery = () =>
  queryOptions({
    queryKey: [...KEY, "kept"],
    queryFn: () => unwrap(client.GET("/api/v1/days/kept")),
    select: (answer) => answer.kept,
  });

export const howItWentQuery = (id: string | null) =>
  queryOptions({
    queryKey: [...KEY, "kept", id],
    queryFn: () =>
      unwrap(client.GET("/api/v1/days/kept/{id}", { params: { path: { id: id ?? "" } } })),
    enabled: id !== null,
  });

export function useKeepPlan() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) => unwrap(client.POST("/api/v1/days/kept", { body: { name } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [...KEY, "kept"], exact: true }),
  });
}

export function useDeleteKept() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(client.DELETE("/api/v1/days/kept/{id}", { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [...KEY, "kept"], exact: true }),
  });
}

export const calendarQuery = () =>
  queryOptions({
    queryKey: [...KEY, "calendar"],
    queryFn: () => unwrap(client.GET("/api/v1/days/calendar")),
    select: (answer) => answer.path,
  });

export function useCalendarAddress() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (isWanted: boolean) =>
      isWanted
        ? unwrap(client.POST("/api/v1/days/calendar"))
        : unwrap(client.DELETE("/api/v1/days/calendar")),
    onSuccess: (answer) => queries.setQueryData([...KEY, "calendar"], answer),
  });
}

export const offersQuery = () =>
  queryOptions({
    queryKey: [...KEY, "offers"],
    queryFn: () => unwrap(client.GET("/api/v1/days/offers")),
    select: (answer) => answer.offers,
  });

function useOfferChange<Given, Answer>(send: (given: Given) => Promise<Answer>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: () => queries.invalidateQueries({ queryKey: KEY }),
  });
}

export const useAskOffer = () =>
  useOfferChange((body: Omit<OfferQuestion, "zone">) =>
    unwrap(client.POST("/api/v1/days/offers", { body: { ...body, zone } })),
  );

export const useTakeOffer = (id: string) =>
  useOfferChange((second_mould: boolean) =>
    unwrap(
      client.POST("/api/v1/days/offers/{id}/taken", {
        params: { path: { id } },
        body: { second_mould, zone },
      }),
    ),
  );

export const useDeleteOffer = (id: string) =>
  useOfferChange(() =>
    unwrap(client.DELETE("/api/v1/days/offers/{id}", { params: { path: { id } } })),
  );

// --- the finish of a cast ---

export const finishQuery = (pour: string) =>
  queryOptions({
    queryKey: ["finish", pour],
    queryFn: () =>
      unwrap(client.GET("/api/v1/pours/{id}/finish", { params: { path: { id: pour } } })),
    refetchInterval: 30_000,
  });

function useFinishChange<Given>(pour: string, send: (given: Given) => Promise<Finish>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (finish) => {
      queries.setQueryData(["finish", pour], finish);
      void queries.invalidateQueries({ queryKey: KEY });
    },
  });
}

export const useSetFinish = (pour: string) =>
  useFinishChange(pour, (given: { finish: FinishWish; release: string; due: string | null }) =>
    unwrap(
      client.PUT("/api/v1/pours/{id}/finish", {
        params: { path: { id: pour } },
        body: { ...given, zone },
      }),
    ),
  );

export const useWeighTrimmed = (pour: string) =>
  useFinishChange(pour, (trimmed_kg: number | null) =>
    unwrap(
      client.PUT("/api/v1/pours/{id}/trimmed", {
        params: { path: { id: pour } },
        body: { trimmed_kg },
      }),
    ),
  );
