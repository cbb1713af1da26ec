import { OrbitControls } from "@react-three/drei/core/OrbitControls";
import { Canvas, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { memo, useMemo, useState } from "react";
import { Box3, Color, DoubleSide, Mesh, Vector3, type BufferGeometry } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

import { paper, standStill } from "../app/theme";
import { Failed, Loading } from "../shared/states";

const loader = new GLTFLoader();

async function fetchGeometry(pieceId: string): Promise<BufferGeometry> {
  const model = await loader.loadAsync(`/api/v1/pieces/${pieceId}/model.glb`);
  let found: BufferGeometry | null = null;
  model.scene.traverse((node) => {
    if (node instanceof Mesh) found = (node as Mesh<BufferGeometry>).geometry;
  });
  if (!found) throw new Error("The piece has nothing to show.");
  const geometry: BufferGeometry = found;
  geometry.computeVertexNormals();
  return geometry;
}

/** The piece, turning; drag it, or use the buttons. Heights point up. */
function PieceView({ pieceId, name }: { pieceId: string; name: string }) {
  const [turning, setTurning] = useState(!standStill);
  const geometry = useQuery({
    queryKey: ["pieces", pieceId, "geometry"],
    queryFn: () => fetchGeometry(pieceId),
    staleTime: Infinity,
  });
  if (geometry.isPending) return <Loading what="the shape" />;
  if (geometry.isError) return <Failed error={geometry.error} />;
  return (
    <figure className="view" aria-label={`${name} in three dimensions`}>
      <Canvas
        dpr={[1, 2]}
        camera={{ fov: 35, up: [0, 0, 1], position: [1.5, 2.4, 0.9], near: 0.01, far: 50 }}
        frameloop={turning ? "always" : "demand"}
        fallback="This browser cannot show three dimensions."
      >
        <color attach="background" args={[new Color(paper.ground)]} />
        <hemisphereLight args={["#fffaf0", "#8d8577", 1.5]} />
        <directionalLight position={[2, 3, 4]} intensity={1.9} />
        <directionalLight position={[-3, -1, 1]} intensity={0.5} />
        <Turned geometry={geometry.data} />
        <OrbitControls
          autoRotate={turning}
          autoRotateSpeed={1.2}
          enablePan={false}
          minDistance={1.3}
          maxDistance={6}
        />
      </Canvas>
      <button type="button" className="view-button" onClick={() => setTurning(!turning)}>
        {turning ? "Hold still" : "Turn"}
      </button>
    </figure>
  );
}

/** Brings any piece to the middle and to the same size, so that the camera need not move. */
function Turned({ geometry }: { geometry: BufferGeometry }) {
  // What fits at the middle of the scene; the narrower side decides.
  const room = useThree((state) => Math.min(state.viewport.width, state.viewport.height));
  const [size, middle] = useMemo(() => {
    const box = new Box3().setFromBufferAttribute(
      geometry.getAttribute("position") as Parameters<Box3["setFromBufferAttribute"]>[0],
    );
    return [box.getSize(new Vector3()).length(), box.getCenter(new Vector3())] as const;
  }, [geometry]);
  return (
    <group scale={(0.95 * room) / size}>
      <mesh geometry={geometry} position={[-middle.x, -middle.y, -middle.z]}>
        <meshStandardMaterial color="#c9bda6" roughness={0.75} side={DoubleSide} />
      </mesh>
    </group>
  );
}

// Numbers change beside it all the time; the drawing changes only with the piece.
export default memo(PieceView);
