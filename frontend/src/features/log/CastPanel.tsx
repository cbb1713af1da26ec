import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import { client, unwrap, type CastState, type Pour } from "../../api/client";
import { Failed } from "../../shared/states";
import { mouldsQuery } from "../moulds/queries";

export const STATES: Record<CastState, string> = {
  out: "out of the mould",
  trimmed: "trimmed",
  painted: "painted",
  "given-away": "given away",
  broken: "broken",
};

/** Which cast of which mould came of a pour, and what became of it. */
export function CastPanel({ pour }: { pour: Pour }) {
  if (pour.cast && pour.mould)
    return <Became key={pour.cast.number} pour={pour} cast={pour.cast} mould={pour.mould} />;
  if (pour.mould)
    return (
      <p>
        In the mould <Link to={`/moulds/${pour.mould.id}`}>{pour.mould.name}</Link>.
      </p>
    );
  return <SayMould pour={pour} />;
}

function usePourChange<Given>(id: string, send: (given: Given) => Promise<Pour>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (changed) => {
      queries.setQueryData(["pours", id], changed);
      void queries.invalidateQueries({ queryKey: ["moulds"] });
      void queries.invalidateQueries({ queryKey: ["casts"] });
    },
  });
}

interface BecameProperties {
  pour: Pour;
  cast: NonNullable<Pour["cast"]>;
  mould: NonNullable<Pour["mould"]>;
}

function Became({ pour, cast, mould }: BecameProperties) {
  const [state, setState] = useState(cast.state);
  const [forWhom, setForWhom] = useState(cast.for_whom);
  const [place, setPlace] = useState(cast.place);
  const edit = usePourChange(pour.id, (body: Omit<BecameProperties["cast"], "number">) =>
    unwrap(client.PUT("/api/v1/pours/{id}/cast", { params: { path: { id: pour.id } }, body })),
  );
  const isKept = state === cast.state && forWhom === cast.for_whom && place === cast.place;
  return (
    <form
      className="cast-panel"
      aria-label="The cast"
      onSubmit={(event) => {
        event.preventDefault();
        edit.mutate({ state, for_whom: forWhom, place });
      }}
    >
      <p className="why-figure">
        Cast {cast.number}{" "}
        <small>
          of <Link to={`/moulds/${mould.id}`}>{mould.name}</Link>
        </small>
      </p>
      <div className="field">
        <label htmlFor="cast-state">It is</label>
        <Select
          id="cast-state"
          value={state}
          onChange={setState}
          options={Object.entries(STATES).map(([value, label]) => ({ value, label }))}
        />
      </div>
      <div className="field">
        <label htmlFor="cast-for">For</label>
        <Input
          id="cast-for"
          value={forWhom}
          maxLength={120}
          onChange={(event) => setForWhom(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="cast-place">Where it is</label>
        <Input
          id="cast-place"
          value={place}
          maxLength={120}
          onChange={(event) => setPlace(event.target.value)}
        />
      </div>
      <Button htmlType="submit" disabled={isKept} loading={edit.isPending}>
        Save
      </Button>
      {edit.error && <Failed error={edit.error} />}
    </form>
  );
}

function SayMould({ pour }: { pour: Pour }) {
  const moulds = useQuery(mouldsQuery());
  const ours = (moulds.data ?? []).filter((one) => one.piece_id === pour.piece_id);
  const say = usePourChange(pour.id, (mould_id: string) =>
    unwrap(
      client.PUT("/api/v1/pours/{id}/mould", {
        params: { path: { id: pour.id } },
        body: { mould_id },
      }),
    ),
  );
  if (ours.length === 0) return null;
  return (
    <div className="cast-panel">
      <div className="field">
        <label htmlFor="pour-mould">Which mould was it in?</label>
        <Select
          id="pour-mould"
          placeholder="not said"
          value={null}
          loading={say.isPending}
          onChange={(key: string | null) => key && say.mutate(key)}
          options={ours.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      {say.error && <Failed error={say.error} />}
    </div>
  );
}
