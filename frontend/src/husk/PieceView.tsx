import { useFrame, type ThreeEvent } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useImperativeHandle, useMemo, useRef, useState, type Ref } from "react";
import { DoubleSide, type Group, type Object3D, type Vector3 } from "three";

import type { Mark } from "../api/client";
import { Failed, Loading } from "../shared/states";
import { boxOf, fetchFile, fetchModel, type Part, type Parts } from "./model";
import { Fitted, Stage } from "./Stage";
import { useMiddle, type Hands } from "./useMiddle";

/** Colours are told apart by their lightness too, and each is named under the view. */
const PART_COLOURS: Record<Part, string> = {
  "casting face": "#d3c7b0",
  narrow: "#b5720a",
  "cut away": "#6d8f8b",
  "in question": "#4d3f7a",
  closed: "#2f6690",
  repaired: "#5d7c3a",
  "left out": "#7a2f22",
  "as it came": "#d3c7b0",
};
const PART_WORDS: Record<Part, string> = {
  "casting face": "casting face",
  narrow: "narrow: fills solid with a wall of 3\u00a0mm",
  "cut away": "cast, then cut away",
  "in question": "in question: counted until you say",
  closed: "closes a hole: cast over and cut out",
  repaired: "repaired",
  "left out": "left out: the mould never touches it",
  "as it came": "the file as it came",
};

/** What a press beside a part's name changes. */
export type PartActions = Partial<Record<Part, { label: string; onPress: () => void }>>;
const NO_ACTIONS: PartActions = {};
const MARK_COLOURS: Record<Mark["role"], string> = {
  "left-out": PART_COLOURS["left out"],
  counted: "#8a7f6a",
  "cut-away": PART_COLOURS["cut away"],
};
/** A press that moved further than this turned the piece and marks nothing. [px] */
const DRAGGED = 4;

interface Properties {
  pieceId: string;
  version: number;
  name: string;
  marks?: readonly Mark[];
  /** Told the place that is pressed, while places are being marked. */
  onPlace?: ((at: [number, number, number]) => void) | null;
  /** Whether there is a file to look at as it came. */
  hasFile?: boolean;
  actions?: PartActions;
}

const NONE: readonly Mark[] = [];

/** The piece in the parts that were told apart, turning; places on it can be pressed. */
function PieceView({
  pieceId,
  version,
  name,
  marks = NONE,
  onPlace = null,
  hasFile = false,
  actions = NO_ACTIONS,
}: Properties) {
  const [before, setBefore] = useState(false);
  const file = useQuery({
    queryKey: ["pieces", pieceId, "file"],
    queryFn: () => fetchFile(pieceId),
    staleTime: Infinity,
    enabled: before,
  });
  const model = useQuery({
    queryKey: ["pieces", pieceId, "geometry", version],
    queryFn: () => fetchModel(pieceId, version),
    staleTime: Infinity,
  });
  const hands = useRef<Hands>(null);
  // Before the first frame there is nothing in the middle of the view.
  const [isDrawn, setIsDrawn] = useState(false);
  if (model.isPending) return <Loading what="the shape" />;
  if (model.isError) return <Failed error={model.error} />;
  const shown = before && file.data ? file.data : model.data;
  const parts = [...shown.keys()];
  return (
    <div className="view-and-legend">
      <Stage
        label={`${name} in three dimensions`}
        tools={
          <>
            {hasFile && (
              <button
                type="button"
                className="view-button"
                aria-pressed={before}
                onClick={() => setBefore(!before)}
              >
                {before ? "What is cast" : "The file as it came"}
              </button>
            )}
            {onPlace && !before && (
              <button
                type="button"
                className="view-button"
                disabled={!isDrawn}
                onClick={() => hands.current?.pressMiddle()}
              >
                Mark the middle of the view
              </button>
            )}
          </>
        }
      >
        <Drawn parts={shown} marks={marks} onPlace={onPlace} onDrawn={setIsDrawn} ref={hands} />
      </Stage>
      {before && file.isError && <Failed error={file.error} />}
      {(parts.length > 1 || before) && (
        <ul className="legend" aria-label="What is what">
          {parts.map((part) => (
            <li key={part}>
              <i style={{ background: PART_COLOURS[part] }} /> {PART_WORDS[part]}
              {actions[part] && (
                <button type="button" className="legend-button" onClick={actions[part].onPress}>
                  {actions[part].label}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

interface DrawnProperties {
  parts: Parts;
  marks: readonly Mark[];
  onPlace: ((at: [number, number, number]) => void) | null;
  /** Told once it is seen, and when it is gone. */
  onDrawn: (isDrawn: boolean) => void;
  ref: Ref<Hands>;
}

function Drawn({ parts, marks, onPlace, onDrawn, ref }: DrawnProperties) {
  const box = useMemo(() => boxOf(parts), [parts]);
  const solid = useRef<Group>(null);
  const middle = useMiddle(solid);
  const isTold = useRef(false);
  useFrame(() => {
    if (isTold.current) return;
    isTold.current = true;
    onDrawn(true);
  });
  useEffect(() => () => onDrawn(false), [onDrawn]);
  useImperativeHandle(ref, () => ({
    pressMiddle() {
      const hit = middle();
      if (hit) onPlace?.(placeOf(hit.object, hit.point));
    },
  }));

  function pressed(event: ThreeEvent<MouseEvent>) {
    if (!onPlace || event.delta > DRAGGED) return;
    event.stopPropagation();
    onPlace(placeOf(event.object, event.point));
  }

  const inside = parts.has("left out");
  return (
    <Fitted box={box}>
      <group ref={solid} onClick={pressed}>
        {[...parts].map(([part, geometry]) => (
          <mesh key={part} geometry={geometry}>
            <meshStandardMaterial
              color={PART_COLOURS[part]}
              roughness={0.75}
              side={DoubleSide}
              transparent={inside && part === "casting face"}
              opacity={inside && part === "casting face" ? 0.55 : 1}
              depthWrite={!(inside && part === "casting face")}
            />
          </mesh>
        ))}
      </group>
      {marks.map((mark, index) => (
        <mesh key={index} position={mark.at_m as [number, number, number]}>
          <sphereGeometry args={[mark.radius_m, 32, 20]} />
          <meshStandardMaterial
            color={MARK_COLOURS[mark.role]}
            transparent
            opacity={0.45}
            depthWrite={false}
          />
        </mesh>
      ))}
    </Fitted>
  );
}

function placeOf(object: Object3D, point: Vector3): [number, number, number] {
  const at = object.worldToLocal(point.clone());
  return [at.x, at.y, at.z];
}

// Numbers change beside it all the time; the drawing changes only with the piece.
export default memo(PieceView);
