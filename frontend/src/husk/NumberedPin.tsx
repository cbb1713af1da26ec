import { useEffect, useMemo } from "react";
import { CanvasTexture } from "three";

import { paper } from "../app/theme";

/** A place on a piece, by its number. */
export interface Pin {
  label: string;
  at_m: readonly number[];
}

/** So far a number stands before its place, in the steps of the depth buffer. */
const PIN_BEFORE = 1500;

/** A number that stands on its place; pale where that is behind the piece. */
export function NumberedPin({ pin, size }: { pin: Pin; size: number }) {
  const texture = useMemo(() => numberTexture(pin.label), [pin.label]);
  useEffect(() => () => texture.dispose(), [texture]);
  const place = pin.at_m as [number, number, number];
  return (
    <>
      <sprite position={place} scale={size} renderOrder={2}>
        <spriteMaterial map={texture} depthTest={false} toneMapped={false} opacity={0.35} />
      </sprite>
      <sprite position={place} scale={size} renderOrder={3}>
        <spriteMaterial
          map={texture}
          toneMapped={false}
          polygonOffset
          polygonOffsetUnits={-PIN_BEFORE}
        />
      </sprite>
    </>
  );
}

function numberTexture(label: string): CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 64;
  const pen = canvas.getContext("2d");
  if (pen) {
    pen.strokeStyle = paper.ink;
    pen.lineWidth = 4;
    pen.beginPath();
    pen.arc(32, 32, 29, 0, 2 * Math.PI);
    pen.fillStyle = paper.card;
    pen.fill();
    pen.stroke();
    pen.fillStyle = paper.ink;
    pen.font = '700 42px "Atkinson Hyperlegible Next Variable", sans-serif';
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillText(label, 32, 35);
  }
  return new CanvasTexture(canvas);
}
