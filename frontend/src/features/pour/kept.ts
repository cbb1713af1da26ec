import { openDB, type DBSchema, type IDBPDatabase } from "idb";

import type { Pour } from "../../api/client";
import type { Press } from "./presses";

/** What this browser keeps until the server has it: it survives a reload, sleep, a dead battery. */
interface Kept extends DBSchema {
  /** Pours as the server last told them. */
  pours: { key: string; value: Pour };
  /** Presses that the server has not taken yet, in their order. */
  presses: { key: number; value: Press };
  /** Numbers by name. */
  numbers: { key: string; value: number };
}

let opened: Promise<IDBPDatabase<Kept>> | undefined;

const database = async () =>
  (opened ??= openDB<Kept>("mild-husk", 1, {
    upgrade(made) {
      made.createObjectStore("pours", { keyPath: "id" });
      made.createObjectStore("presses", { keyPath: "number", autoIncrement: true });
      made.createObjectStore("numbers");
    },
  }));

/** What a browser that keeps nothing gives instead. */
async function orElse<T>(work: Promise<T>, without: T): Promise<T> {
  try {
    return await work;
  } catch {
    return without;
  }
}

export const keptPour = (id: string) =>
  orElse(
    database().then((at) => at.get("pours", id)),
    undefined,
  );

export const keepPour = (pour: Pour) =>
  orElse(
    database().then((at) => at.put("pours", pour)),
    pour.id,
  );

export const keptPresses = () =>
  orElse<Press[]>(
    database().then((at) => at.getAll("presses")),
    [],
  );

/** Keeps a press, on the disk when this is done; returns it with its number. */
export async function keepPress(press: Press): Promise<Press> {
  const at = await database();
  const change = at.transaction("presses", "readwrite", { durability: "strict" });
  const number = await change.store.put(press);
  await change.done;
  return { ...press, number };
}

export const forgetPress = (number: number) =>
  orElse(
    database().then((at) => at.delete("presses", number)),
    undefined,
  );

export const keptNumber = (name: string) =>
  orElse(
    database().then((at) => at.get("numbers", name)),
    undefined,
  );

export const keepNumber = (name: string, value: number) =>
  orElse(
    database().then((at) => at.put("numbers", value, name)),
    name,
  );
