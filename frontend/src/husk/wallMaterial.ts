import { DoubleSide, MeshStandardMaterial } from "three";

import { SCALE } from "./wallScale";

const stops = SCALE.map((one) => `vec3(${one}) / 255.0`).join(", ");

export interface WallLook {
  /** The wall that is wished: thinner is hatched, it itself is a line. Null marks nothing. [m] */
  wishedM: number | null;
  /** The end of the scale. [m] */
  topM: number;
  /** Beyond this the piece is cut away. [m] */
  cutAtM: number;
  /** Not for the inside, which is plain. */
  colourful: boolean;
}

/** A surface coloured by its wall. */
export function wallMaterial(look: WallLook): MeshStandardMaterial {
  const material = new MeshStandardMaterial({ roughness: 0.75, side: DoubleSide });
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, {
      wished: { value: look.wishedM ?? -1 },
      top: { value: look.topM },
      cutAt: { value: look.cutAtM },
      colourful: { value: look.colourful ? 1 : 0 },
    });
    shader.vertexShader = shader.vertexShader
      .replace(
        "#include <common>",
        "#include <common>\nattribute float wall;\nvarying float vWall;\nvarying vec3 vPlace;",
      )
      .replace(
        "#include <begin_vertex>",
        "#include <begin_vertex>\nvWall = wall;\nvPlace = position;",
      );
    shader.fragmentShader = shader.fragmentShader
      .replace(
        "#include <common>",
        `#include <common>
        varying float vWall;
        varying vec3 vPlace;
        uniform float wished;
        uniform float top;
        uniform float cutAt;
        uniform float colourful;
        vec3 colourOf(float wall) {
          vec3 stops[6] = vec3[6](${stops});
          float at = clamp(wall / top, 0.0, 1.0) * 5.0;
          int below = int(min(floor(at), 4.0));
          return pow(mix(stops[below], stops[below + 1], at - float(below)), vec3(2.2));
        }`,
      )
      .replace(
        "#include <color_fragment>",
        `if (vPlace.x > cutAt) discard;
        diffuseColor.rgb = mix(vec3(0.66, 0.58, 0.45), colourOf(vWall), colourful);
        if (colourful > 0.5 && wished > 0.0) {
          float stripe = mod(gl_FragCoord.x + gl_FragCoord.y, 12.0);
          if (vWall < wished && stripe < 2.5) diffuseColor.rgb = vec3(0.4, 0.02, 0.01);
          if (abs(vWall - wished) < 1.2 * fwidth(vWall)) diffuseColor.rgb = vec3(0.012);
        }`,
      );
  };
  return material;
}
