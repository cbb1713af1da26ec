import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";

import { accessQuery } from "../../shared/standing";
import { useSignOut } from "./queries";
import { ROLES } from "./words";

/** Who is signed in here, and the way out; nothing while the workshop is open to anybody. */
export function Somebody() {
  const access = useQuery({ ...accessQuery(), enabled: false });
  const signOut = useSignOut();
  const { is_signed_in: isIn, name, role } = access.data ?? {};
  if (!isIn || !role) return null;
  return (
    <>
      <p className="somebody" title={ROLES[role].may}>
        {name}
        <br />
        {ROLES[role].name}
      </p>
      <Button size="small" loading={signOut.isPending} onClick={() => signOut.mutate()}>
        Sign out
      </Button>
    </>
  );
}
