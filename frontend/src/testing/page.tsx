import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { vi } from "vitest";

import { noServer } from "./server";

export { aServer, Refusal, type Asked } from "./server";

/** The simulated browser has no dialogs of its own. */
export function withDialogs() {
  HTMLDialogElement.prototype.showModal = function show() {
    this.open = true;
  };
  HTMLDialogElement.prototype.close = function close() {
    this.open = false;
  };
}

/** Draws something as it stands in a page; `where` tells at which address it is. */
export function inPage(element: ReactNode, at = "/") {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  let address = at;
  function Where() {
    const { pathname } = useLocation();
    address = pathname;
    return null;
  }
  const whole = (inner: ReactNode) => (
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[at]}>
        <Where />
        {inner}
      </MemoryRouter>
    </QueryClientProvider>
  );
  const drawn = render(whole(element));
  return {
    ...drawn,
    queries,
    where: () => address,
    redraw: (inner: ReactNode) => drawn.rerender(whole(inner)),
  };
}

/** Ends what a test began. */
export function leavePage() {
  cleanup();
  vi.useRealTimers();
  noServer();
  localStorage.clear();
}
