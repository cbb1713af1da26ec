import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type Worker } from "../../api/client";

export const peopleQuery = () =>
  queryOptions({
    queryKey: ["people"],
    queryFn: () => unwrap(client.GET("/api/v1/days/people")),
    select: (answer) => answer.people,
  });

/** Who works here stands behind the days: they are looked at again. */
export function useSetPeople() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (people: Worker[]) =>
      unwrap(client.PUT("/api/v1/days/people", { body: { people } })),
    onSuccess: (answer) => {
      queries.setQueryData(["people"], answer);
      return queries.invalidateQueries({ queryKey: ["days"] });
    },
  });
}
