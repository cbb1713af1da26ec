import { Line } from "@react-three/drei/core/Line";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { DoubleSide } from "three";

import type { MouldPlan } from "../api/client";
import { Failed, Loading } from "../shared/states";
import { boxOf, readModel } from "./model";
import { Fitted, Stage } from "./Stage";

const COLOURS = { rubber: "#c9bda6", locked: "#a12318", split: "#1d1b18", cut: "#b5720a" };

// Lines lie on the rubber: drawn as if a hair nearer, so that it does not swallow them.
const OFF_THE_RUBBER = { polygonOffset: true, polygonOffsetFactor: -8, polygonOffsetUnits: -8 };

interface Properties {
  mouldId: string;
  version: number;
  name: string;
  plan: MouldPlan;
}

/** The outside of the rubber: part lines, what locks the shell, the cut that lets the glove go. */
export default function MouldView({ mouldId, version, name, plan }: Properties) {
  const parts = plan.shell.parts;
  const model = useQuery({
    queryKey: ["mould model", mouldId, version, parts, plan.wall_m],
    queryFn: async () => {
      const answer = await fetch(`/api/v1/moulds/${mouldId}/model.glb?parts=${parts}`);
      if (!answer.ok) throw new Error("The mould cannot be drawn; load the page again.");
      return readModel(await answer.arrayBuffer());
    },
  });
  const { lines, cut_line, teeth, up } = plan.drawing;
  const split = useMemo(() => points(lines.flat()), [lines]);
  const cut = useMemo(() => points(cut_line), [cut_line]);
  const wave = useMemo(() => points(teeth), [teeth]);
  const box = useMemo(() => (model.data ? boxOf(model.data) : null), [model.data]);
  if (model.isError) return <Failed error={model.error} />;
  if (!model.data || !box) return <Loading what="the mould" />;
  return (
    <div className="view-and-legend">
      <Stage label={`${name} in three dimensions`}>
        <Fitted box={box} up={up}>
          {[...model.data].map(([part, geometry]) => {
            const locked = (part as string) === "locked";
            return (
              <mesh key={part} geometry={geometry}>
                <meshStandardMaterial
                  color={locked ? COLOURS.locked : COLOURS.rubber}
                  roughness={0.8}
                  side={DoubleSide}
                />
              </mesh>
            );
          })}
          {split.length > 1 && (
            <Line points={split} segments color={COLOURS.split} lineWidth={3} {...OFF_THE_RUBBER} />
          )}
          {cut.length > 1 && (
            <Line points={cut} color={COLOURS.cut} lineWidth={5} depthTest={false} />
          )}
          {wave.length > 1 && (
            <Line points={wave} color={COLOURS.cut} lineWidth={3} {...OFF_THE_RUBBER} />
          )}
        </Fitted>
      </Stage>
      <ul className="legend" aria-label="What is what">
        <li>
          <i style={{ background: COLOURS.rubber }} /> outside of the rubber
        </li>
        {plan.shell.locked_area_m2 > 0 && (
          <li>
            <i style={{ background: COLOURS.locked }} /> locks the shell: fill it
          </li>
        )}
        {lines.length > 0 && (
          <li>
            <i style={{ background: COLOURS.split }} /> part line
          </li>
        )}
        {cut_line.length > 0 && (
          <li>
            <i style={{ background: COLOURS.cut }} /> cut, with its waves outside
          </li>
        )}
      </ul>
    </div>
  );
}

function points(line: readonly (readonly number[])[]): [number, number, number][] {
  return line.map(([x = 0, y = 0, z = 0]) => [x, y, z]);
}
