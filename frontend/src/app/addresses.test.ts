import { matchRoutes } from "react-router";
import { describe, expect, it } from "vitest";

import { ADDRESSES, type Address } from "./addresses";

const ID = "0a6f6a3e-3f5c-4f5e-9b9e-2f1f2a7c9d10";
const all: readonly Address[] = ADDRESSES;
const asGone = (path: string) => path.replace(":id", ID).replace(":kind", "rubber");

/** As the server finds it: the first of the list that fits. */
function firstThatFits(address: string): Address | undefined {
  return all.find(({ path }) => {
    const parts = path.split("/");
    const given = address.split("/");
    return (
      parts.length === given.length &&
      parts.every((part, at) => part.startsWith(":") || part === given[at])
    );
  });
}

describe("addresses", () => {
  it.each(all.map((one) => [one.path, one] as const))("%s is the same for all", (path, one) => {
    const address = asGone(path);
    expect(firstThatFits(address)).toBe(one);
    // The router takes the most exact one, whatever its place in the list.
    const routes = all.map((other) => ({ path: other.path, id: other.path }));
    expect(matchRoutes(routes, `/${address}`)?.at(-1)?.route.id).toBe(path);
  });

  it("asks for what its own address names", () => {
    for (const { path, asks = [] } of all)
      for (const ask of asks)
        for (const [name] of ask.matchAll(/:\w+/g)) expect(path).toContain(name);
  });

  it("leaves what is nowhere to the page that says so", () => {
    expect(firstThatFits("log/runs/1/2")).toBeUndefined();
    expect(firstThatFits("elsewhere")).toBeUndefined();
  });
});
