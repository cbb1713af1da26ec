/** A backup is made every day; one that is older than so much is warned of. [ms] */
const LONGEST_MS = 3 * 24 * 3_600_000;

/** Whether the last backup is too long ago; where none was ever made, nothing is overdue. */
export function isOverdue(at: string | null, now: number): boolean {
  return at !== null && now - Date.parse(at) > LONGEST_MS;
}
