import { useFrame, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, type RefObject } from "react";
import { BufferAttribute, Quaternion, Vector3, type BufferGeometry, type Group } from "three";

import type { Try } from "../../api/client";
import { boxOf, readParts } from "../../husk/model";
import { Fitted, Stage } from "../../husk/Stage";
import { wallMaterial } from "../../husk/wallMaterial";
import { Failed, Loading } from "../../shared/states";
import { filmOf, type Frame } from "./frame";
import { upOf, type Held } from "./holding";

const UNCUT = 1e3;
/** The scale ends at so many times the wished wall. */
const ENDS = 1.5;
const UP = new Vector3(0, 0, 1);
/** Whoever rolls it looks into it. */
const FROM_ABOVE = [0.5, 2, 2.1] as const;

interface Properties {
  tray: Try;
  frame: Frame | null;
  held: RefObject<Held>;
  isSensed: boolean;
  /** Hatches what is thinner than wished, once nothing runs any more. */
  isOver: boolean;
}

/** The mould as it is held, and the film in it as colour. */
export default function TrayView(properties: Properties) {
  const { tray } = properties;
  const model = useQuery({
    queryKey: ["practice", tray.id, "mould"],
    queryFn: async () => {
      const answer = await fetch(`/api/v1/practice/${tray.id}/mould.glb`);
      if (!answer.ok) throw new Error("The tray cannot be drawn; begin another try.");
      return readParts(await answer.arrayBuffer());
    },
    staleTime: Infinity,
  });
  const face = model.data?.get("casting face");
  if (model.isError) return <Failed error={model.error} />;
  if (!face) return <Loading what="the tray" />;
  return (
    <Stage label="The mould in your hands, and the film in it" turns={false} from={FROM_ABOVE}>
      <Filmed {...properties} face={face} />
    </Stage>
  );
}

function Filmed({
  tray,
  frame,
  held,
  isSensed,
  isOver,
  face,
}: Properties & { face: BufferGeometry }) {
  const turned = useRef<Group>(null);
  const invalidate = useThree((state) => state.invalidate);
  const box = useMemo(() => boxOf(new Map([["casting face", face]])), [face]);
  const shown = useMemo(() => {
    const corners = face.getAttribute("position").count;
    face.setAttribute("wall", new BufferAttribute(new Float32Array(corners), 1));
    return face;
  }, [face]);
  const material = useMemo(
    () =>
      wallMaterial({
        wishedM: isOver ? tray.target_m : null,
        topM: ENDS * tray.target_m,
        cutAtM: UNCUT,
        colourful: true,
      }),
    [isOver, tray.target_m],
  );
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    const wall = shown.getAttribute("wall") as BufferAttribute;
    if (frame) filmOf(frame, wall.array as Float32Array);
    wall.needsUpdate = true;
    invalidate();
  }, [frame, shown, invalidate]);
  useFrame(() => {
    if (!turned.current) return;
    const up = isSensed && frame ? frame.up : upOf(tray, held.current);
    const way = new Vector3(up[0], up[1], up[2]).normalize();
    turned.current.quaternion.copy(new Quaternion().setFromUnitVectors(way, UP));
    if (!isOver) invalidate();
  });
  return (
    <group ref={turned}>
      <Fitted box={box} scale={1.1}>
        <mesh geometry={shown} material={material} />
      </Fitted>
    </group>
  );
}
