import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { DoubleSide } from "three";

import { client, unwrap, type Taping } from "../api/client";
import { Failed, Loading } from "../shared/states";
import { boxOf, readModel } from "./model";
import { Fitted, Stage } from "./Stage";

/** The body that is made of girths, to be turned; the last one stays until the next is there. */
export default function TapedView({ taping }: { taping: Taping }) {
  const model = useQuery({
    queryKey: ["taping", "model", taping],
    queryFn: async ({ signal }) =>
      readModel(
        (await unwrap(
          client.POST("/api/v1/taping/model.glb", { body: taping, signal, parseAs: "arrayBuffer" }),
        )) as ArrayBuffer,
      ),
    placeholderData: keepPreviousData,
  });
  const box = useMemo(() => (model.data ? boxOf(model.data) : null), [model.data]);
  if (model.isPending || !box) return <Loading what="the body" />;
  if (model.isError) return <Failed error={model.error} />;
  return (
    <Stage label="The taped piece in three dimensions" className="small">
      <Fitted box={box}>
        {[...model.data].map(([part, geometry]) => (
          <mesh key={part} geometry={geometry}>
            <meshStandardMaterial color="#d3c7b0" roughness={0.75} side={DoubleSide} />
          </mesh>
        ))}
      </Fitted>
    </Stage>
  );
}
