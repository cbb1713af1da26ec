import { Line } from "@react-three/drei/core/Line";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { DoubleSide } from "three";

import type { CutPattern, PatternMark } from "../api/client";
import { Failed, Loading } from "../shared/states";
import { boxOf, readParts } from "./model";
import { Fitted, Stage } from "./Stage";

const COLOURS = { solid: "#c9bda6", edge: "#a12318", mark: "#1d1b18", chosen: "#b5720a" };
// Edges lie on what is drawn: as if a hair nearer, so that it does not swallow them.
const OFF_IT = { polygonOffset: true, polygonOffsetFactor: -8, polygonOffsetUnits: -8 };

interface Properties {
  /** Where the model is: of the piece, or of the outside of the rubber. */
  model: string;
  name: string;
  pattern: CutPattern;
  marks: readonly PatternMark[];
  chosen: string | null;
  onChoose: (mark: string) => void;
}

/** What is cut, on the piece: its edges, and its marks to press. */
export default function PatternView({ model, name, pattern, marks, chosen, onChoose }: Properties) {
  const parts = useQuery({
    queryKey: ["pattern model", model],
    queryFn: async () => {
      const answer = await fetch(model);
      if (!answer.ok) throw new Error("The shape cannot be drawn; load the page again.");
      return readParts(await answer.arrayBuffer());
    },
  });
  const box = useMemo(() => (parts.data ? boxOf(parts.data) : null), [parts.data]);
  const seen = marks.find((one) => one.name === chosen)?.place_m ?? null;
  if (parts.isError) return <Failed error={parts.error} />;
  if (!parts.data || !box) return <Loading what="the shape" />;
  const size = box.min.distanceTo(box.max);
  return (
    <Stage label={`${name} in three dimensions, with what is cut`} seen={seen}>
      <Fitted box={box} seen={seen} scale={0.85}>
        {[...parts.data].map(([part, geometry]) => (
          <mesh key={part} geometry={geometry}>
            <meshStandardMaterial color={COLOURS.solid} roughness={0.8} side={DoubleSide} />
          </mesh>
        ))}
        {pattern.curves_m.map((line, at) => (
          <Line
            key={at}
            points={line.map(([x = 0, y = 0, z = 0]) => [x, y, z] as const)}
            color={COLOURS.edge}
            lineWidth={3}
            {...OFF_IT}
          />
        ))}
        {marks.map((one) => (
          <mesh
            key={one.name}
            position={one.place_m as [number, number, number]}
            scale={size * (one.name === chosen ? 0.018 : 0.008)}
            onClick={(event) => {
              event.stopPropagation();
              onChoose(one.name);
            }}
          >
            <sphereGeometry args={[1, 12, 8]} />
            <meshBasicMaterial color={one.name === chosen ? COLOURS.chosen : COLOURS.mark} />
          </mesh>
        ))}
      </Fitted>
    </Stage>
  );
}
