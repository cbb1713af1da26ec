import { expect, test } from "vitest";

import { isOverdue } from "./backups";

const NOON = Date.parse("2026-11-30T12:00:00Z");

test.each([
  [null, false],
  ["2026-11-30T03:30:00Z", false],
  // Told in another zone, it is the same moment.
  ["2026-11-27T14:30:00+02:00", false],
  ["2026-11-27T11:59:00Z", true],
  ["2025-11-30T12:00:00Z", true],
])("a backup of %s is overdue: %s", (at, isLate) => {
  expect(isOverdue(at, NOON)).toBe(isLate);
});
