import { withUnit } from "./format";

/** How much of a longer piece of work is done: a bar and a figure. */
export function ShareDone({ share, label }: { share: number; label: string }) {
  return (
    <div className="share-done">
      <progress value={share} aria-label={label} />
      <span>{withUnit(`${Math.round(100 * share)}`, "%")}</span>
    </div>
  );
}
