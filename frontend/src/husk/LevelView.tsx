import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide } from "three";

import type { RimTest } from "../api/client";
import { Failed, Loading } from "../shared/states";
import { boxOf, fetchModel } from "./model";
import { Fitted, Stage } from "./Stage";

interface Properties {
  pieceId: string;
  version: number;
  rim: RimTest;
}

/** The mould as it is tilted, and the flat top of the liquid in it. */
export default function LevelView({ pieceId, version, rim }: Properties) {
  const model = useQuery({
    queryKey: ["pieces", pieceId, "geometry", version],
    queryFn: () => fetchModel(pieceId, version),
    staleTime: Infinity,
  });
  const surface = useMemo(() => {
    const geometry = new BufferGeometry();
    geometry.setAttribute(
      "position",
      new BufferAttribute(new Float32Array(rim.surface.flat(2)), 3),
    );
    geometry.computeVertexNormals();
    return geometry;
  }, [rim.surface]);
  const box = useMemo(() => (model.data ? boxOf(model.data) : null), [model.data]);
  if (model.isPending || !box) return <Loading what="the shape" />;
  if (model.isError) return <Failed error={model.error} />;
  const face = [...model.data].filter(([part]) => part !== "left out");
  return (
    <Stage
      label="The tilted mould with the level of the liquid in three dimensions"
      className="small"
      turns={false}
    >
      <Fitted box={box} up={rim.up} scale={1.35}>
        {face.map(([part, geometry]) => (
          <mesh key={part} geometry={geometry}>
            <meshStandardMaterial
              color="#d3c7b0"
              roughness={0.8}
              side={DoubleSide}
              transparent
              opacity={0.4}
              depthWrite={false}
            />
          </mesh>
        ))}
        <mesh geometry={surface}>
          <meshStandardMaterial color={rim.spills ? "#a12318" : "#1f4a47"} side={DoubleSide} />
        </mesh>
      </Fitted>
    </Stage>
  );
}
