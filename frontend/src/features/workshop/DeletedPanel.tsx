import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";

import { client, unwrap } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { clockTime, day } from "../../shared/format";
import { thingIn } from "../../shared/things";

const deletedQuery = () =>
  queryOptions({
    queryKey: ["deleted"],
    queryFn: () => unwrap(client.GET("/api/v1/deleted")),
    select: (answer) => answer.deleted,
  });

/** What was deleted in the last thirty days, and how it comes back. */
export function DeletedPanel() {
  const deleted = useQuery(deletedQuery());
  const queries = useQueryClient();
  const refuse = useNotices((state) => state.refuse);
  const restore = useMutation({
    mutationFn: (id: string) =>
      unwrap(client.POST("/api/v1/deleted/{id}/restore", { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries(),
    onError: refuse,
  });
  if (!deleted.data || deleted.data.length === 0) return null;
  return (
    <section className="card devices" aria-labelledby="deleted">
      <h2 id="deleted">Deleted in the last 30&nbsp;days</h2>
      <ul>
        {deleted.data.map((one) => (
          <li key={one.id}>
            <span className="device-name">
              <b>{one.name}</b>
              <span className="faint">{thingIn(one.what)}</span>
            </span>
            <span>
              {day(one.deleted_at)}, {clockTime(one.deleted_at)}
            </span>
            <Button aria-label={`Restore ${one.name}`} onClick={() => restore.mutate(one.id)}>
              Restore
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
