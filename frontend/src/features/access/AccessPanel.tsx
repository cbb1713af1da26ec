import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";

import type { Access, AccountList, Role } from "../../api/client";
import { clockTime, day } from "../../shared/format";
import { useConfirm } from "../../shared/Question";
import { accessQuery } from "../../shared/standing";
import { Failed, Loading, Told } from "../../shared/states";
import { NameAndPassword } from "./NameAndPassword";
import { PasswordField } from "./PasswordField";
import {
  accountsQuery,
  useBecomeOwner,
  useChangePassword,
  useChangeRole,
  useInvite,
  useRemoveAccount,
  useSignOutBrowser,
  useTakeBack,
} from "./queries";
import { linkOf, PEOPLE, ROLES } from "./words";

type Account = AccountList["accounts"][number];
const OPTIONS = PEOPLE.map((value) => ({ value, label: ROLES[value].name }));
const INVITED = [...OPTIONS, { value: "tablet" as Role, label: ROLES.tablet.name }];

/** Who may come in: said by the owner; for everybody else, one's own password. */
export function AccessPanel() {
  const access = useQuery(accessQuery());
  return (
    <section className="card devices access" aria-labelledby="access">
      <h2 id="access">Who can sign in</h2>
      {access.isPending && <Loading what="who can sign in" />}
      {access.isError && <Failed error={access.error} retry={() => void access.refetch()} />}
      {access.data?.is_open && <FirstOwner shortest={access.data.shortest_password} />}
      {access.data?.is_signed_in && <Mine access={access.data} />}
      {access.data?.is_signed_in && access.data.role === "owner" && <Everybody />}
    </section>
  );
}

/** A workshop that nobody owns yet is open to whoever reaches it. */
function FirstOwner({ shortest }: { shortest: number }) {
  const become = useBecomeOwner();
  return (
    <>
      <p className="faint">
        Whoever sits at this machine needs no password. Once you set one, you are the owner,
        everybody signs in, and you can invite others: makers, apprentices, guests, a tablet at the
        bench.
      </p>
      <NameAndPassword
        ok="Set the password"
        isNew
        shortest={shortest}
        isPending={become.isPending}
        error={become.error}
        onSubmit={(name, password) => become.mutate({ name, password })}
      />
    </>
  );
}

function Mine({ access }: { access: Access }) {
  const [isOpen, setOpen] = useState(false);
  const [old, setOld] = useState("");
  const change = useChangePassword();
  if (!access.role) return null;
  return (
    <>
      <p>
        You are signed in as <b>{access.name}</b>. {ROLES[access.role].name}:{" "}
        {ROLES[access.role].may}.
      </p>
      {access.role !== "tablet" && !isOpen && (
        <Button onClick={() => setOpen(true)}>Change your password</Button>
      )}
      {change.isSuccess && !isOpen && (
        <Told kind="news">The password is changed; other browsers are signed out.</Told>
      )}
      {isOpen && (
        <NameAndPassword
          ok="Save the password"
          isNew
          of={access.name}
          shortest={access.shortest_password}
          isPending={change.isPending}
          error={change.error}
          onSubmit={(_, password) =>
            change.mutate({ old, password }, { onSuccess: () => setOpen(false) })
          }
        >
          <label>
            Current password
            <PasswordField value={old} autoComplete="current-password" onChange={setOld} />
          </label>
        </NameAndPassword>
      )}
    </>
  );
}

/** For the owner: accounts, browsers, invitations. */
function Everybody() {
  const accounts = useQuery(accountsQuery());
  const signOut = useSignOutBrowser();
  const takeBack = useTakeBack();
  if (accounts.isPending) return <Loading what="the accounts" />;
  if (accounts.isError)
    return <Failed error={accounts.error} retry={() => void accounts.refetch()} />;
  const { accounts: people, signed_in: browsers, invitations } = accounts.data;
  return (
    <>
      <ul aria-label="Accounts">
        {people.map((one) => (
          <AccountRow key={one.id} account={one} />
        ))}
      </ul>
      <Invite />
      {invitations.length > 0 && (
        <>
          <h3>Invited</h3>
          <ul aria-label="Invitations">
            {invitations.map((one) => (
              <li key={one.id}>
                <span className="device-name">
                  <b>{one.name || ROLES[one.role].name}</b>
                  <span className="faint">
                    {one.is_new ? ROLES[one.role].name : "New password"}
                  </span>
                </span>
                <span className="faint">
                  Until {day(one.ends_at)}, {clockTime(one.ends_at)}
                </span>
                <Button
                  aria-label={`Withdraw the invitation ${one.name || ROLES[one.role].name}`}
                  onClick={() => takeBack.mutate(one.id)}
                >
                  Withdraw
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      <h3>Signed in</h3>
      <ul aria-label="Signed in">
        {browsers.map((one) => (
          <li key={one.id}>
            <span className="device-name">
              <b>{one.name}</b>
              <span className="faint">
                {one.is_tablet ? ROLES.tablet.name : one.is_this ? "This browser" : "A browser"}
              </span>
            </span>
            <span className="faint">
              Last seen {day(one.seen_at)}, {clockTime(one.seen_at)}
            </span>
            {!one.is_this && (
              <Button aria-label={`Sign out ${one.name}`} onClick={() => signOut.mutate(one.id)}>
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

function AccountRow({ account }: { account: Account }) {
  const change = useChangeRole();
  const remove = useRemoveAccount();
  const invite = useInvite();
  const confirm = useConfirm();
  return (
    <li>
      <span className="device-name">
        <b>{account.name}</b>
        <span className="faint">{account.is_you ? "You" : ROLES[account.role].may}</span>
      </span>
      <Select
        aria-label={`Role of ${account.name}`}
        value={account.role}
        options={OPTIONS}
        loading={change.isPending}
        onChange={(role) => change.mutate({ id: account.id, role })}
      />
      <span className="actions">
        <Button
          loading={invite.isPending}
          onClick={() =>
            invite.mutate({ account_id: account.id, role: account.role, name: account.name })
          }
        >
          New password
        </Button>
        <Button
          aria-label={`Remove ${account.name}`}
          onClick={() =>
            confirm({
              title: `Remove ${account.name}?`,
              content: "Every browser of this account is signed out. What was made here stays.",
              ok: "Remove",
              onOk: () => remove.mutateAsync(account.id).catch(() => undefined),
            })
          }
        >
          Remove
        </Button>
      </span>
      {invite.data && <Link secret={invite.data.secret} name={account.name} />}
      {invite.error && <Failed error={invite.error} />}
    </li>
  );
}

function Invite() {
  const [role, setRole] = useState<Role>("maker");
  const [name, setName] = useState("");
  const invite = useInvite();
  return (
    <form
      className="new-device"
      aria-label="Invite"
      onSubmit={(event) => {
        event.preventDefault();
        invite.mutate({ role, name }, { onSuccess: () => setName("") });
      }}
    >
      <label>
        {role === "tablet" ? "What the tablet is called" : "Who is invited"}
        <Input value={name} maxLength={120} onChange={(event) => setName(event.target.value)} />
      </label>
      <label>
        As
        <Select aria-label="As" value={role} options={INVITED} onChange={setRole} />
        <span className="hint">{ROLES[role].may}</span>
      </label>
      <Button htmlType="submit" loading={invite.isPending}>
        Make a link
      </Button>
      {invite.data && <Link secret={invite.data.secret} name={invite.variables.name ?? ""} />}
      {invite.error && <Failed error={invite.error} />}
    </form>
  );
}

/** A link is shown once; only its hash is kept. */
function Link({ secret, name }: { secret: string; name: string }) {
  const link = linkOf(secret);
  const [isCopied, setCopied] = useState(false);
  return (
    <div className="told news invitation" role="status">
      <label>
        Send this link{name && ` to ${name}`}; it is good once, for a week:
        <Input value={link} readOnly onFocus={(event) => event.target.select()} />
      </label>
      <Button
        onClick={() =>
          void navigator.clipboard.writeText(link).then(
            () => setCopied(true),
            () => undefined,
          )
        }
      >
        {isCopied ? "Copied" : "Copy"}
      </Button>
    </div>
  );
}
