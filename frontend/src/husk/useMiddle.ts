import { useThree } from "@react-three/fiber";
import type { RefObject } from "react";
import { Vector2, type Intersection, type Object3D } from "three";

/** What may be done to a view by who has no pointer. */
export interface Hands {
  pressMiddle: () => void;
}

/** Finds what stands in the middle of the view. */
export function useMiddle(solid: RefObject<Object3D | null>): () => Intersection | undefined {
  const { raycaster, camera } = useThree();
  return () => {
    if (!solid.current) return undefined;
    raycaster.setFromCamera(new Vector2(0, 0), camera);
    return raycaster.intersectObject(solid.current, true)[0];
  };
}
