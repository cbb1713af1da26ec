import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, hasComeIn, unwrap, type NewInvitation, type Role } from "../../api/client";
import { useNotices } from "../../shared/Notices";

const ACCOUNTS = ["accounts"] as const;

/** Who may come in, who is in, and who is invited. */
export const accountsQuery = () =>
  queryOptions({
    queryKey: ACCOUNTS,
    queryFn: () => unwrap(client.GET("/api/v1/accounts")),
  });

/** Everything is asked for anew as whoever has come in. */
export function useComeIn<T>(comes: (body: T) => Promise<unknown>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: comes,
    onSuccess: () => {
      hasComeIn();
      return queries.invalidateQueries();
    },
  });
}

export function useSignIn() {
  return useComeIn((body: { name: string; password: string }) =>
    unwrap(client.POST("/api/v1/sign-in", { body })),
  );
}

export function useBecomeOwner() {
  return useComeIn((body: { name: string; password: string }) =>
    unwrap(client.POST("/api/v1/accounts/first", { body })),
  );
}

/** Leaves nothing of the workshop in this page. */
export function useSignOut() {
  const refuse = useNotices((state) => state.refuse);
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/v1/sign-out")),
    onSuccess: () => window.location.assign("/today"),
    onError: refuse,
  });
}

export function useChangePassword() {
  return useMutation({
    mutationFn: (body: { old: string; password: string }) =>
      unwrap(client.PUT("/api/v1/access/password", { body })),
  });
}

export function useInvite() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: NewInvitation) => unwrap(client.POST("/api/v1/invitations", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ACCOUNTS }),
  });
}

/** A change to who may come in; what is refused is said above everything. */
function useChange<T>(changes: (what: T) => Promise<unknown>) {
  const queries = useQueryClient();
  const refuse = useNotices((state) => state.refuse);
  return useMutation({
    mutationFn: changes,
    onError: refuse,
    onSettled: () => queries.invalidateQueries({ queryKey: ACCOUNTS }),
  });
}

export function useChangeRole() {
  return useChange(({ id, role }: { id: string; role: Role }) =>
    unwrap(client.PUT("/api/v1/accounts/{id}", { params: { path: { id } }, body: { role } })),
  );
}

export function useRemoveAccount() {
  return useChange((id: string) =>
    unwrap(client.DELETE("/api/v1/accounts/{id}", { params: { path: { id } } })),
  );
}

export function useTakeBack() {
  return useChange((id: string) =>
    unwrap(client.DELETE("/api/v1/invitations/{id}", { params: { path: { id } } })),
  );
}

export function useSignOutBrowser() {
  return useChange((id: string) =>
    unwrap(client.DELETE("/api/v1/signed-in/{id}", { params: { path: { id } } })),
  );
}
