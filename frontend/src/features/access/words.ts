import type { Role } from "../../api/client";

/** What each may do here, in a maker's words. */
export const ROLES: Readonly<Record<Role, { name: string; may: string }>> = {
  owner: { name: "Owner", may: "does everything, and says who can sign in" },
  maker: { name: "Maker", may: "plans, pours, buys, prices and deletes" },
  apprentice: { name: "Apprentice", may: "pours and logs; changes no prices, deletes nothing" },
  guest: { name: "Guest", may: "looks, and changes nothing" },
  tablet: { name: "Bench tablet", may: "stays signed in at the bench; pours and logs only" },
};

/** The roles somebody with an account can have. */
export const PEOPLE = ["owner", "maker", "apprentice", "guest"] as const satisfies readonly Role[];

/** Where an invitation is opened; what comes after # is not sent to any server. */
export function linkOf(secret: string): string {
  return `${window.location.origin}/join#${secret}`;
}
