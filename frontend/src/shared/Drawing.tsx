/** A small picture of a thing, drawn by a worker; an empty place until it is. */
export function Drawing({ picture }: { picture: string }) {
  return picture ? (
    <img
      className="drawing"
      src={`/api/v1/drawings/${picture}`}
      // What it shows stands beside it in words.
      alt=""
      width={160}
      height={120}
      loading="lazy"
    />
  ) : (
    <span className="drawing" aria-hidden />
  );
}
