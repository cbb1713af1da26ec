import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type DeviceKind, type Fault } from "../../api/client";

export const devicesQuery = () =>
  queryOptions({
    queryKey: ["devices"],
    queryFn: () => unwrap(client.GET("/api/v1/devices")),
    select: (answer) => answer.devices,
  });

function useDevicesChange<T, R>(change: (body: T) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["devices"] }),
  });
}

export const useAddDevice = () =>
  useDevicesChange((body: { name: string; kind: DeviceKind; address: string }) =>
    unwrap(client.POST("/api/v1/devices", { body })),
  );

export const useRemoveDevice = () =>
  useDevicesChange((id: string) =>
    unwrap(client.DELETE("/api/v1/devices/{id}", { params: { path: { id } } })),
  );

/** Has a stand-in fail, or be whole again. */
export const useFailStandIn = (id: string) =>
  useMutation({
    mutationFn: (body: Fault) =>
      unwrap(client.POST("/api/v1/devices/{id}/fault", { params: { path: { id } }, body })),
  });
