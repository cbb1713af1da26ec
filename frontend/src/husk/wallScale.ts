/** Dark blue to yellow, even in lightness, as in the files. */
export const SCALE = [
  "20,30,80",
  "60,78,120",
  "110,118,125",
  "165,158,118",
  "220,205,95",
  "252,232,80",
];

export const SCALE_CSS = `linear-gradient(to right, ${SCALE.map((one) => `rgb(${one})`).join(", ")})`;
