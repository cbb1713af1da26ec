import { OrbitControls } from "@react-three/drei/core/OrbitControls";
import { Canvas, useThree } from "@react-three/fiber";
import {
  Component,
  useEffect,
  useRef,
  useState,
  type ComponentRef,
  type KeyboardEvent,
  type ReactNode,
} from "react";
import { Color, Quaternion, Vector3, type Box3 } from "three";

import { useDark } from "../app/look";
import { bench, paper, standStill } from "../app/theme";

interface StageProperties {
  label: string;
  children: ReactNode;
  /** Drawn over the view, beside its button. */
  tools?: ReactNode;
  /** Whether it may be turned by itself. */
  turns?: boolean;
  /** A place of the piece that was asked for: it is held still then, until it is turned again. */
  seen?: readonly number[] | null;
  /** Where one stands. */
  from?: readonly [number, number, number];
  className?: string;
}

/** What stands in the view's place where there are no graphics; the rest of the page goes on. */
class Graphics extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return <p className="hint no-graphics">This browser cannot show the 3D view.</p>;
  }
}

/** From beside and a little above; drawings of lists (picture.py) are seen from there as well. */
const FROM = [1.5, 2.4, 0.9] as const;

/** How near and how far one may stand; the piece is about one high. */
const NEAREST = 1.3;
const FURTHEST = 6;
/** What one press of a key turns it by [rad], and by how much it brings one nearer. */
const KEY_TURN = Math.PI / 18;
const KEY_NEARER = 0.88;

/** Azimuth and polar angle that a key turns by. */
const KEY_WAYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-KEY_TURN, 0],
  ArrowRight: [KEY_TURN, 0],
  ArrowUp: [0, -KEY_TURN],
  ArrowDown: [0, KEY_TURN],
};

/** Turns what is seen, or brings it nearer, as a pointer does. */
function turnByKey(controls: ComponentRef<typeof OrbitControls>, event: KeyboardEvent) {
  const way = KEY_WAYS[event.key];
  const nearer = { "+": KEY_NEARER, "-": 1 / KEY_NEARER }[event.key];
  if (!way && !nearer) return;
  event.preventDefault();
  if (way) {
    controls.setAzimuthalAngle(controls.getAzimuthalAngle() + way[0]);
    const polar = controls.getPolarAngle() + way[1];
    controls.setPolarAngle(Math.min(Math.PI - 0.01, Math.max(0.01, polar)));
  }
  if (nearer) controls.object.position.multiplyScalar(nearer);
  controls.update();
}

/** Light, a camera that looks down on it a little, and hands to turn it. Heights point up. */
export function Stage({
  label,
  children,
  tools,
  turns = true,
  seen = null,
  from = FROM,
  className,
}: StageProperties) {
  const [turning, setTurning] = useState(turns && !standStill);
  const [before, setBefore] = useState(seen);
  if (seen !== before) {
    setBefore(seen);
    if (seen) setTurning(false);
  }
  const controls = useRef<ComponentRef<typeof OrbitControls>>(null);
  const { ground } = useDark() ? bench : paper;
  return (
    <figure className={className ? `view ${className}` : "view"} aria-label={label}>
      <Graphics>
        <div
          className="view-hands"
          role="application"
          tabIndex={0}
          aria-label={`${label}. Arrow keys turn it; plus and minus bring it nearer or further.`}
          onKeyDown={(event) => {
            if (controls.current) turnByKey(controls.current, event);
          }}
        >
          <Canvas
            dpr={[1, 2]}
            camera={{ fov: 35, up: [0, 0, 1], position: [...from], near: 0.01, far: 50 }}
            frameloop={turning ? "always" : "demand"}
            onCreated={({ gl }) => {
              gl.localClippingEnabled = true;
            }}
          >
            <color attach="background" args={[new Color(ground)]} />
            <hemisphereLight args={["#fffaf0", "#8d8577", 1.5]} />
            <directionalLight position={[2, 3, 4]} intensity={1.9} />
            <directionalLight position={[-3, -1, 1]} intensity={0.5} />
            {children}
            <OrbitControls
              ref={controls}
              makeDefault
              autoRotate={turning}
              autoRotateSpeed={1.2}
              enablePan={false}
              minDistance={NEAREST}
              maxDistance={FURTHEST}
            />
          </Canvas>
        </div>
      </Graphics>
      <div className="view-tools">
        {turns && (
          <button type="button" className="view-button" onClick={() => setTurning(!turning)}>
            {turning ? "Hold still" : "Turn"}
          </button>
        )}
        {tools}
      </div>
    </figure>
  );
}

interface FittedProperties {
  box: Box3;
  /** Which way of the piece points up; its own z when nothing is said. */
  up?: readonly number[];
  /** One fills the view whichever way it is turned; more for what is seen from one side. */
  scale?: number;
  /** A place of the piece that is turned towards who looks. [m] */
  seen?: readonly number[] | null;
  children: ReactNode;
}

/** Brings any piece to the middle and to the same size, so that the camera need not move. */
export function Fitted({ box, up, scale = 1, seen = null, children }: FittedProperties) {
  // What fits at the middle of the scene; the narrower side decides.
  const room = useThree((state) => Math.min(state.viewport.width, state.viewport.height));
  const size = box.getSize(new Vector3()).length();
  const middle = box.getCenter(new Vector3());
  const turned = new Quaternion();
  if (up) turned.setFromUnitVectors(new Vector3(...up), new Vector3(0, 0, 1));
  const { camera, invalidate } = useThree();
  const controls = useThree((state) => state.controls) as { update: () => void } | null;

  useEffect(() => {
    if (!seen || !controls) return;
    const towards = new Vector3(...seen).sub(middle).applyQuaternion(turned);
    camera.position.copy(towards.setLength(camera.position.length()));
    controls.update();
    invalidate();
    // Only another place turns it: who turned it away since keeps it so.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [seen, controls]);

  return (
    <group scale={(0.95 * scale * room) / size} quaternion={turned}>
      <group position={[-middle.x, -middle.y, -middle.z]}>{children}</group>
    </group>
  );
}
