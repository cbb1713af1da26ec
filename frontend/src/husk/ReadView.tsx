import { type ThreeEvent } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useImperativeHandle, useMemo, useRef, type ReactNode, type Ref } from "react";
import { BufferAttribute, BufferGeometry, type Mesh } from "three";

import { Failed, Loading } from "../shared/states";
import { boxOf, readParts } from "./model";
import { NumberedPin, type Pin } from "./NumberedPin";
import { Fitted, Stage } from "./Stage";
import { useMiddle, type Hands } from "./useMiddle";
import { wallMaterial } from "./wallMaterial";

/** A press that moved further than this turned the piece and reads nothing. [px] */
const DRAGGED = 4;
const UNCUT = 1e3;

/** Which wall is shown: as it was simulated, as it was read, or by how much they differ. */
export type Shown = "simulated" | "read" | "difference";

interface Properties {
  pourId: string;
  /** Changes with every reading. */
  version: string;
  shown: Shown;
  wishedM: number;
  /** The end of the scale, or of a difference to both sides. [m] */
  topM: number;
  pins: readonly Pin[];
  onPlace: (at: [number, number, number]) => void;
  /** Laid over the view. */
  over?: ReactNode;
}

async function fetchRead(pourId: string) {
  const answer = await fetch(`/api/v1/pours/${pourId}/read-wall.glb`);
  if (!answer.ok) throw new Error("The wall cannot be fetched; load the page again.");
  return readParts(await answer.arrayBuffer());
}

/** The wall of a cast, simulated and read, on the piece; places on it can be pressed. */
export default function ReadView({ pourId, version, shown, over, ...drawn }: Properties) {
  const model = useQuery({
    queryKey: ["read-wall", pourId, version],
    queryFn: () => fetchRead(pourId),
    staleTime: Infinity,
  });
  const hands = useRef<Hands>(null);
  const wall = model.data?.get("wall");
  if (model.isError) return <Failed error={model.error} />;
  if (!wall) return <Loading what="the wall" />;
  return (
    <div className="read-view">
      <Stage
        turns={false}
        label="The wall of the cast in three dimensions, with its readings numbered"
        tools={
          <button
            type="button"
            className="view-button"
            onClick={() => hands.current?.pressMiddle()}
          >
            Mark the middle of the view
          </button>
        }
      >
        <Drawn wall={wall} shown={shown} {...drawn} ref={hands} />
      </Stage>
      {over}
    </div>
  );
}

interface DrawnProperties extends Omit<Properties, "pourId" | "version" | "over"> {
  wall: BufferGeometry;
  ref: Ref<Hands>;
}

function Drawn({ wall, shown, wishedM, topM, pins, onPlace, ref }: DrawnProperties) {
  const solid = useRef<Mesh>(null);
  const middle = useMiddle(solid);
  const box = useMemo(() => boxOf(new Map([["wall", wall]])), [wall]);
  const surface = useMemo(() => colouredBy(wall, shown, topM), [wall, shown, topM]);
  const isDifference = shown === "difference";
  const material = useMemo(
    () =>
      wallMaterial({
        wishedM: isDifference ? null : wishedM,
        topM: isDifference ? 2 * topM : topM,
        cutAtM: UNCUT,
        colourful: true,
      }),
    [isDifference, wishedM, topM],
  );
  useEffect(() => () => material.dispose(), [material]);
  useImperativeHandle(ref, () => ({
    pressMiddle() {
      const hit = middle();
      if (hit) place(hit.object.worldToLocal(hit.point.clone()).toArray());
    },
  }));

  function place(at: number[]) {
    onPlace(at as [number, number, number]);
  }

  function pressed(event: ThreeEvent<MouseEvent>) {
    if (event.delta > DRAGGED) return;
    event.stopPropagation();
    place(event.object.worldToLocal(event.point.clone()).toArray());
  }

  return (
    <Fitted box={box} scale={1.25}>
      <mesh ref={solid} geometry={surface} material={material} onClick={pressed} />
      {pins.map((pin) => (
        <NumberedPin key={pin.label} pin={pin} size={0.045 * box.min.distanceTo(box.max)} />
      ))}
    </Fitted>
  );
}

/** The same surface with the wall that is shown; a difference starts at the lower end. */
function colouredBy(wall: BufferGeometry, shown: Shown, topM: number): BufferGeometry {
  const surface = new BufferGeometry();
  surface.setIndex(wall.getIndex());
  for (const one of ["position", "normal"]) surface.setAttribute(one, wall.getAttribute(one));
  const values = wall.getAttribute(`_${shown}`) ?? wall.getAttribute("_simulated");
  const from = shown === "difference" ? topM : 0;
  const moved = Float32Array.from({ length: values.count }, (_, at) => values.getX(at) + from);
  surface.setAttribute("wall", new BufferAttribute(moved, 1));
  return surface;
}
