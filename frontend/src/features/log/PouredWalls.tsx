import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useCallback, useState } from "react";

import { client, unwrap, type Pour, type WallRun } from "../../api/client";
import { bound, listed, quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { jobQuery, useWhenDone } from "../jobs/queries";
import { LookTools } from "../walls/LookTools";
import { WallColumn } from "../walls/WallColumn";
import type { Look } from "../walls/WallScene";

const ask = (id: string, again: boolean) =>
  unwrap(client.POST("/api/v1/pours/{id}/wall", { params: { path: { id } }, body: { again } }));

/** The wall of a pour as its mould was really turned, beside the planned one. */
export function PouredWalls({ pour }: { pour: Pour }) {
  const queries = useQueryClient();
  const queryKey = ["poured-walls", pour.id];
  const walls = useQuery({
    queryKey,
    queryFn: () => ask(pour.id, false),
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: false,
  });
  const jobId = walls.data?.job?.id;
  const known = useQuery({ ...jobQuery(jobId ?? ""), enabled: jobId !== undefined });
  const job = known.data ?? walls.data?.job;
  useWhenDone(job ?? undefined, ["poured-walls", "readings"], () => undefined);
  const again = useMutation({
    mutationFn: () => ask(pour.id, true),
    onSuccess: (answer) => queries.setQueryData(queryKey, answer),
  });
  const isRecorded = pour.coats.some((coat) => coat.recorded_s !== null);
  return (
    <section aria-labelledby="poured-walls" className="poured-walls">
      <h2 id="poured-walls">
        {isRecorded ? "The wall as it was actually turned" : "The wall as it was poured"}
      </h2>
      {walls.error && <Failed error={walls.error} />}
      {walls.data?.why && <p className="faint">{bound(walls.data.why)}</p>}
      {walls.data?.can_be && (
        <Button onClick={() => again.mutate()} loading={again.isPending}>
          Simulate it
        </Button>
      )}
      {walls.isPending && <Loading what="the wall" />}
      {job && job.status !== "done" && (
        <>
          <JobProgress job={job} untitled />
          {(job.status === "refused" || job.status === "cancelled") && (
            <Button onClick={() => again.mutate()} loading={again.isPending}>
              Simulate it
            </Button>
          )}
        </>
      )}
      {walls.data?.planned && walls.data.poured && (
        <Both planned={walls.data.planned} poured={walls.data.poured} told={walls.data.recorded} />
      )}
    </section>
  );
}

function Both({ planned, poured, told }: { planned: WallRun; poured: WallRun; told: number[] }) {
  const [look, setLook] = useState<Look>({ coat: 0, cut: 1, playing: false, share: 0 });
  const onLook = useCallback((part: Partial<Look>) => setLook((old) => ({ ...old, ...part })), []);
  const coats = Math.min(planned.wall.coats.length, poured.wall.coats.length);
  const topM = look.coat === 0 ? planned.scale_m : planned.coat_scale_m;
  return (
    <>
      <p className="faint">
        Simulated from the grams that were weighed,{" "}
        {told.length === 0
          ? "every coat turned as planned"
          : told.length < poured.wall.coats.length
            ? `coat ${listed(told)} as a sensor recorded it, the others as planned`
            : "every coat as a sensor recorded it"}
        ; both on the same faces. The room is as the probe told it.
      </p>
      <Difference planned={planned} poured={poured} />
      <div className="wall-both">
        <LookTools coats={coats} look={look} onLook={onLook} />
        <WallColumn title="Planned" run={planned} look={look} topM={topM} />
        <WallColumn
          title={told.length > 0 ? "As it was turned" : "As it was poured"}
          run={poured}
          look={look}
          topM={topM}
        />
      </div>
    </>
  );
}

function Difference({ planned, poured }: { planned: WallRun; poured: WallRun }) {
  const system = useUnits((state) => state.system);
  const length = (metres: number) => quantity(metres, "m", system);
  const weight = (kg: number) => quantity(kg, "kg", system);
  const rows: [string, (run: WallRun) => string][] = [
    ["On 95\u00a0% of the face at least", ({ wall }) => length(wall.p05_m)],
    ["Mean wall", ({ wall }) => length(wall.mean_m)],
    ["Under the wish", ({ wall }) => quantity(wall.under_target, "share", system)],
    ["Thinnest place", ({ wall }) => wall.thinnest_at],
    ["In puddles", ({ wall }) => weight(wall.pool_kg)],
    ["Over the rim", ({ wall }) => weight(wall.spilt_kg)],
    ["In the cast", ({ wall }) => weight(wall.cast_kg)],
  ];
  return (
    <table className="beside">
      <thead>
        <tr>
          <td />
          <th scope="col">Planned</th>
          <th scope="col">As it was poured</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, told]) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td>{told(planned)}</td>
            <td>
              <b>{told(poured)}</b>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
