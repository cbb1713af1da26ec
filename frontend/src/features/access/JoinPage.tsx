import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useNavigate } from "react-router";

import { client, unwrap, type Welcome } from "../../api/client";
import { Failed, Loading, Nothing } from "../../shared/states";
import { NameAndPassword } from "./NameAndPassword";
import { useComeIn } from "./queries";
import { ROLES } from "./words";

/** Where an invitation is opened. */
export function JoinPage() {
  const secret = window.location.hash.slice(1);
  const welcome = useQuery({
    queryKey: ["welcome", secret],
    queryFn: () => unwrap(client.POST("/api/v1/invitations/welcome", { body: { secret } })),
    enabled: secret !== "",
    refetchOnWindowFocus: false,
    // It is used up by coming in, and not asked about after that.
    staleTime: Infinity,
  });
  return (
    <main className="join page">
      <h1>{welcome.data ? welcome.data.workshop : "Mild Husk"}</h1>
      {secret === "" && <Nothing>This link is not whole; open it as it was sent.</Nothing>}
      {welcome.isLoading && <Loading what="the invitation" />}
      {welcome.isError && <Failed error={welcome.error} />}
      {welcome.data && <ComeIn secret={secret} welcome={welcome.data} />}
    </main>
  );
}

function ComeIn({ secret, welcome }: { secret: string; welcome: Welcome }) {
  const navigate = useNavigate();
  const comeIn = useComeIn((who: { name: string; password: string }) =>
    unwrap(client.POST("/api/v1/invitations/accept", { body: { secret, ...who } })),
  );
  const { name, role, is_new: isNew } = welcome;
  const enter = (who: { name: string; password: string }, to: string) =>
    comeIn.mutate(who, { onSuccess: () => void navigate(to, { replace: true }) });
  if (role === "tablet")
    return (
      <>
        <p>
          This becomes <b>{name}</b>, a tablet at the bench. It stays signed in, and pours and logs
          only.
        </p>
        <Button
          type="primary"
          loading={comeIn.isPending}
          onClick={() => enter({ name: "", password: "" }, "/today/bench")}
        >
          Pair this tablet
        </Button>
        {comeIn.error && <Failed error={comeIn.error} />}
      </>
    );
  return (
    <>
      <p>
        {isNew
          ? `You are invited. ${ROLES[role].name}: ${ROLES[role].may}.`
          : "Choose a new password. Every browser that is signed in with the old one is signed out."}
      </p>
      <NameAndPassword
        ok={isNew ? "Join" : "Save the password"}
        isNew
        isFirst
        {...(!isNew && { of: name })}
        suggested={name}
        shortest={welcome.shortest_password}
        isPending={comeIn.isPending}
        error={comeIn.error}
        onSubmit={(typed, password) => enter({ name: isNew ? typed : "", password }, "/today")}
      />
    </>
  );
}
