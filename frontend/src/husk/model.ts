import { Box3, Mesh, type BufferGeometry } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

const loader = new GLTFLoader();

/** The parts of a piece as its model names them. */
export type Part =
  | "casting face"
  | "cut away"
  | "narrow"
  | "in question"
  | "closed"
  | "repaired"
  | "left out"
  | "as it came";
export type Parts = ReadonlyMap<Part, BufferGeometry>;

export async function readModel(content: ArrayBuffer): Promise<Parts> {
  // A piece names its parts by these words.
  return (await readParts(content)) as Parts;
}

/** What a model holds, by name. */
export async function readParts(
  content: ArrayBuffer,
): Promise<ReadonlyMap<string, BufferGeometry>> {
  const model = await loader.parseAsync(content, "");
  const parts = new Map<string, BufferGeometry>();
  model.scene.traverse((node) => {
    if (!(node instanceof Mesh)) return;
    const geometry = (node as Mesh<BufferGeometry>).geometry;
    geometry.computeVertexNormals();
    // The loader writes blanks in names otherwise.
    parts.set(node.name.replaceAll("_", " "), geometry);
  });
  if (parts.size === 0) throw new Error("The piece has nothing to show.");
  return parts;
}

export async function fetchModel(pieceId: string, version: number): Promise<Parts> {
  const answer = await fetch(`/api/v1/pieces/${pieceId}/model.glb?v=${version}`);
  if (!answer.ok) throw new Error("The shape of the piece cannot be fetched; load the page again.");
  return readModel(await answer.arrayBuffer());
}

/** The faces of a piece's file as they came. */
export async function fetchFile(pieceId: string): Promise<Parts> {
  const answer = await fetch(`/api/v1/pieces/${pieceId}/file.glb`);
  if (!answer.ok) throw new Error("The file of the piece cannot be fetched; load the page again.");
  return readModel(await answer.arrayBuffer());
}

/** The box round all parts of the casting face. */
export function boxOf(parts: ReadonlyMap<string, BufferGeometry>): Box3 {
  const box = new Box3();
  for (const [name, geometry] of parts) {
    if (name === "left out" && parts.size > 1) continue;
    geometry.computeBoundingBox();
    if (geometry.boundingBox) box.union(geometry.boundingBox);
  }
  return box;
}
