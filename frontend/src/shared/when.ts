/** Local times as the server wants them: with their offset, so that it knows the working hours. */

export function withOffset(at: Date): string {
  const minutes = -at.getTimezoneOffset();
  const sign = minutes < 0 ? "-" : "+";
  const two = (value: number) => String(Math.floor(Math.abs(value))).padStart(2, "0");
  const local = new Date(at.getTime() + minutes * 60_000).toISOString().slice(0, 19);
  return `${local}${sign}${two(minutes / 60)}:${two(minutes % 60)}`;
}

/** Eight o'clock today, or tomorrow when it is past. */
export function nextMorning(now: Date): Date {
  const at = new Date(now);
  at.setHours(8, 0, 0, 0);
  if (at < now) at.setDate(at.getDate() + 1);
  return at;
}

/** What a field for a local date and time holds. */
export function fieldOf(at: Date): string {
  return withOffset(at).slice(0, 16);
}
