import { OrbitControls } from "@react-three/drei/core/OrbitControls";
import { Canvas, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { memo, useMemo, useState } from "react";
import { Box3, Color, DoubleSide, Mesh, Vector3, type BufferGeometry } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

import { paper, standStill } from "../app/theme";
import { Failed, Loading } from "../shared/states";

const loader = new GLTFLoader();

interface Shapes {
  face: BufferGeometry;
  /** Faces of the file that are no casting face: the inner skin of a print. */
  leftOut: BufferGeometry | null;
}

async function fetchShapes(pieceId: string, version: number): Promise<Shapes> {
  const model = await loader.loadAsync(`/api/v1/pieces/${pieceId}/model.glb?v=${version}`);
  const found = new Map<string, BufferGeometry>();
  model.scene.traverse((node) => {
    if (!(node instanceof Mesh)) return;
    const geometry = (node as Mesh<BufferGeometry>).geometry;
    geometry.computeVertexNormals();
    found.set(node.name.startsWith("left") ? "left out" : "casting face", geometry);
  });
  const face = found.get("casting face");
  if (!face) throw new Error("The piece has nothing to show.");
  return { face, leftOut: found.get("left out") ?? null };
}

/** The piece, turning; drag it, or use the buttons. Heights point up. */
interface Properties {
  pieceId: string;
  version: number;
  name: string;
}

function PieceView({ pieceId, version, name }: Properties) {
  const [turning, setTurning] = useState(!standStill);
  const geometry = useQuery({
    queryKey: ["pieces", pieceId, "geometry", version],
    queryFn: () => fetchShapes(pieceId, version),
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
        <Turned shapes={geometry.data} />
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
function Turned({ shapes }: { shapes: Shapes }) {
  // What fits at the middle of the scene; the narrower side decides.
  const room = useThree((state) => Math.min(state.viewport.width, state.viewport.height));
  const [size, middle] = useMemo(() => {
    const box = new Box3().setFromBufferAttribute(
      shapes.face.getAttribute("position") as Parameters<Box3["setFromBufferAttribute"]>[0],
    );
    return [box.getSize(new Vector3()).length(), box.getCenter(new Vector3())] as const;
  }, [shapes]);
  return (
    <group scale={(0.95 * room) / size}>
      <group position={[-middle.x, -middle.y, -middle.z]}>
        <mesh geometry={shapes.face}>
          <meshStandardMaterial
            color="#c9bda6"
            roughness={0.75}
            side={DoubleSide}
            transparent={shapes.leftOut !== null}
            opacity={shapes.leftOut ? 0.55 : 1}
            depthWrite={shapes.leftOut === null}
          />
        </mesh>
        {shapes.leftOut && (
          <mesh geometry={shapes.leftOut}>
            <meshStandardMaterial color="#8a3b2a" roughness={0.9} side={DoubleSide} />
          </mesh>
        )}
      </group>
    </group>
  );
}

// Numbers change beside it all the time; the drawing changes only with the piece.
export default memo(PieceView);
