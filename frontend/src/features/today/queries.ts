import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type NewDayJob, type TaskTick, type Today } from "../../api/client";

/** The zone the reader's clock is in; working hours are told in it where nobody was named. */
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const KEY = ["days"] as const;

/** Today and the days to come; looked at again by itself, as time goes on. */
export const todayQuery = () =>
  queryOptions({
    queryKey: KEY,
    queryFn: () => unwrap(client.GET("/api/v1/days")),
    refetchInterval: 20_000,
  });

/** What cannot be kept together, and which changes free it: each is tried, so it takes seconds. */
export const collisionsQuery = (isAsked: boolean) =>
  queryOptions({
    queryKey: [...KEY, "collisions"],
    queryFn: () => unwrap(client.GET("/api/v1/days/collisions")),
    enabled: isAsked,
    staleTime: 0,
  });

/** Whatever changes the days answers with them. */
function useDaysChange<Given>(send: (given: Given) => Promise<Today>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (today) => queries.setQueryData(KEY, today),
  });
}

export const useAddJob = () =>
  useDaysChange((body: Omit<NewDayJob, "zone">) =>
    unwrap(client.POST("/api/v1/days/jobs", { body: { ...body, zone } })),
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
