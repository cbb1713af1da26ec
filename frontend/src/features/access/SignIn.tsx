import { lazy, Suspense } from "react";
import { create } from "zustand";

import { Dialog } from "../../shared/Dialog";
import { Loading } from "../../shared/states";
import { useSignIn } from "./queries";

/** Fields come when they are needed: most pages never ask. */
const NameAndPassword = lazy(async () => ({
  default: (await import("./NameAndPassword")).NameAndPassword,
}));

/** Whether the server wants to know who asks before it answers. */
export const useSignedOut = create<{ isOut: boolean }>(() => ({ isOut: false }));

/** Asks who it is, above the page: what was typed there, or pressed at the bench, stays. */
export function SignIn() {
  const isOut = useSignedOut((state) => state.isOut);
  const signIn = useSignIn();
  if (!isOut) return null;
  return (
    <Dialog title="Sign in" open onClose={() => undefined} role="alertdialog" width={400}>
      <Suspense fallback={<Loading what="the form" />}>
        <NameAndPassword
          ok="Sign in"
          isNew={false}
          isFirst
          isPending={signIn.isPending}
          error={signIn.error}
          onSubmit={(name, password) =>
            signIn.mutate(
              { name, password },
              { onSuccess: () => useSignedOut.setState({ isOut: false }) },
            )
          }
        />
      </Suspense>
      <p className="faint">
        No account? Ask the owner for a link. An owner who lost a password makes one on the machine
        itself: <code>husk-web invite NAME</code>
      </p>
    </Dialog>
  );
}
