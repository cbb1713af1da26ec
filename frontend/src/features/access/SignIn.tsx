import { Dialog } from "../../shared/Dialog";
import { NameAndPassword } from "./NameAndPassword";
import { useSignIn } from "./queries";

/** Asks who it is, above the page: what was typed there, or pressed at the bench, stays. */
export function SignIn() {
  const signIn = useSignIn();
  return (
    <Dialog title="Sign in" open onClose={() => undefined} role="alertdialog" width={400}>
      <NameAndPassword
        ok="Sign in"
        isNew={false}
        isFirst
        isPending={signIn.isPending}
        error={signIn.error}
        onSubmit={(name, password) => signIn.mutate({ name, password })}
      />
      <p className="faint">
        No account? Ask the owner for a link. An owner who lost a password makes one on the machine
        itself: <code>husk-web invite NAME</code>
      </p>
    </Dialog>
  );
}
