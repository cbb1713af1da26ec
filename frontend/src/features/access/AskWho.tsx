import { lazy, Suspense } from "react";

import { useSignedOut } from "./signedOut";

/** Its fields come when they are needed: most pages never ask. */
const SignIn = lazy(async () => ({ default: (await import("./SignIn")).SignIn }));

/** Asks whoever sits here who they are, when the server wants to know. */
export function AskWho() {
  const isOut = useSignedOut((state) => state.isOut);
  return (
    isOut && (
      <Suspense fallback={null}>
        <SignIn />
      </Suspense>
    )
  );
}
