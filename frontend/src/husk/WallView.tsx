import { useQuery } from "@tanstack/react-query";
import type { ThreeEvent } from "@react-three/fiber";
import {
  useEffect,
  useImperativeHandle,
  useMemo,
  useRef,
  type ComponentProps,
  type Ref,
} from "react";
import { BufferAttribute, BufferGeometry, type Face, type Mesh } from "three";

import { Failed, Loading } from "../shared/states";
import { liquidAt, type Film } from "./film";
import { boxOf, readParts } from "./model";
import { NumberedPin, type Pin } from "./NumberedPin";
import { Fitted, Stage } from "./Stage";
import { useMiddle, type Hands } from "./useMiddle";
import { wallMaterial } from "./wallMaterial";

/** Beyond every piece. [m] */
const UNCUT = 1e3;

const UPRIGHT = [0, 0, 1] as const;

interface Properties {
  runId: string;
  coats: number;
  /** One coat alone, from 1; nought for all together. */
  coat: number;
  wishedM: number;
  /** The end of the scale. [m] */
  topM: number;
  /** Where the section is cut, as a share of the piece from left to right; one is uncut. */
  cut: number;
  pins: readonly Pin[];
  /** A coat on its way instead of the wall, and which moment of it. */
  film: Film | null;
  moment: number;
  /** A place that is turned towards who looks. [m] */
  seen: readonly number[] | null;
  /** Is told the wall of each coat at a place that was touched. [m] */
  onTouch: (coats: number[]) => void;
}

async function fetchWall(runId: string) {
  const answer = await fetch(`/api/v1/walls/${runId}/wall.glb`);
  if (!answer.ok) throw new Error("The wall cannot be fetched; load the page again.");
  return readParts(await answer.arrayBuffer());
}

/** The wall as colour on the piece, and its inside to scale where it is cut open. */
export default function WallView(properties: Properties) {
  const { runId, coats, coat, wishedM, topM, cut, film, moment } = properties;
  const model = useQuery({
    queryKey: ["walls", runId, "model"],
    queryFn: () => fetchWall(runId),
    staleTime: Infinity,
  });
  const outside = model.data?.get("wall");
  const box = useMemo(() => (model.data ? boxOf(model.data) : null), [model.data]);
  const name = coat === 0 ? "_wall" : `_coat_${coat}`;
  const outer = useMemo(() => outside && shownBy(outside, name), [outside, name]);
  const inner = useMemo(() => outside && builtInwards(outside, name), [outside, name]);
  const hands = useRef<Hands>(null);
  const flowing = useMemo(() => outside && film && withLiquid(outside), [outside, film]);
  if (flowing && film) showMoment(flowing, film, moment);
  const cutAtM = box && cut < 1 ? box.min.x + cut * (box.max.x - box.min.x) : UNCUT;
  const marked = film ? null : wishedM;
  const material = useMemo(
    () => wallMaterial({ wishedM: marked, topM, cutAtM, colourful: true }),
    [marked, topM, cutAtM],
  );
  const plain = useMemo(
    () => wallMaterial({ wishedM: null, topM, cutAtM, colourful: false }),
    [topM, cutAtM],
  );
  useEffect(() => () => [material, plain].forEach((one) => one.dispose()), [material, plain]);
  if (model.isError) return <Failed error={model.error} />;
  if (!outside || !outer || !inner || !box) return <Loading what="the wall" />;

  function touch(face: Face) {
    if (!outside) return;
    const corners = [face.a, face.b, face.c];
    properties.onTouch(
      Array.from({ length: coats }, (_, one) => {
        const values = outside.getAttribute(`_coat_${one + 1}`);
        return corners.reduce((sum, corner) => sum + values.getX(corner), 0) / 3;
      }),
    );
  }

  return (
    <Stage
      key={film ? "film" : "wall"}
      turns={!film}
      seen={properties.seen}
      tools={
        !film && (
          <button
            type="button"
            className="view-button"
            onClick={() => hands.current?.pressMiddle()}
          >
            Read the middle of the view
          </button>
        )
      }
      label={
        film
          ? "The coat as it runs in the turning mould"
          : "The wall of the cast in three dimensions; too thin is hatched"
      }
    >
      <Fitted
        box={box}
        up={film?.up[moment] ?? UPRIGHT}
        scale={film ? 1 : 1.25}
        seen={properties.seen}
      >
        <Touched ref={hands} geometry={flowing ?? outer} material={material} onFace={touch} />
        {cut < 1 && !film && <mesh geometry={inner} material={plain} />}
        {!film &&
          properties.pins.map((pin) => (
            <NumberedPin key={pin.label} pin={pin} size={0.045 * box.min.distanceTo(box.max)} />
          ))}
      </Fitted>
    </Stage>
  );
}

interface TouchedProperties extends Pick<ComponentProps<"mesh">, "geometry" | "material"> {
  onFace: (face: Face) => void;
  ref: Ref<Hands>;
}

/** A surface that is touched with a pointer, or in the middle of the view. */
function Touched({ onFace, ref, ...drawn }: TouchedProperties) {
  const solid = useRef<Mesh>(null);
  const middle = useMiddle(solid);
  const touch = (face: Face | null | undefined) => face && onFace(face);
  useImperativeHandle(ref, () => ({ pressMiddle: () => touch(middle()?.face) }));
  return (
    <mesh ref={solid} {...drawn} onClick={(event: ThreeEvent<MouseEvent>) => touch(event.face)} />
  );
}

/** The same surface, coloured by one of its walls. */
function shownBy(outside: BufferGeometry, name: string): BufferGeometry {
  const shown = new BufferGeometry();
  shown.setIndex(outside.getIndex());
  for (const one of ["position", "normal"]) shown.setAttribute(one, outside.getAttribute(one));
  shown.setAttribute("wall", outside.getAttribute(name));
  return shown;
}

/** The same surface with room for the liquid on it. */
function withLiquid(outside: BufferGeometry): BufferGeometry {
  const shown = shownBy(outside, "_wall");
  const corners = outside.getAttribute("position").count;
  shown.setAttribute("wall", new BufferAttribute(new Float32Array(corners), 1));
  return shown;
}

function showMoment(flowing: BufferGeometry, film: Film, moment: number): void {
  const wall = flowing.getAttribute("wall") as BufferAttribute;
  liquidAt(film, moment, wall.array as Float32Array);
  wall.needsUpdate = true;
}

/** The inside of the finished wall: every corner moved in by all of the wall there. */
function builtInwards(outside: BufferGeometry, name: string): BufferGeometry {
  const inside = shownBy(outside, name);
  const place = outside.getAttribute("position");
  const normal = outside.getAttribute("normal");
  const wall = outside.getAttribute("_wall");
  const moved = new Float32Array(place.count * 3);
  for (let at = 0; at < place.count; at++) {
    const by = wall.getX(at);
    moved[3 * at] = place.getX(at) - by * normal.getX(at);
    moved[3 * at + 1] = place.getY(at) - by * normal.getY(at);
    moved[3 * at + 2] = place.getZ(at) - by * normal.getZ(at);
  }
  inside.setAttribute("position", new BufferAttribute(moved, 3));
  return inside;
}
