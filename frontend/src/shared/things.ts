/** What each table of the workshop holds, as makers call it. */
export const THINGS: Readonly<Record<string, string>> = {
  account: "account",
  archive: "archive",
  cast_run: "run",
  cast_sheet: "cast sheet",
  dab_test: "dab test",
  day_job: "task",
  day_offer: "offer",
  device: "device",
  invitation: "invitation",
  kept_pattern: "pattern to cut",
  kit_offer: "kit",
  lot: "lot",
  material: "material",
  mesh_file: "uploaded file",
  mould: "mould",
  mould_event: "event of a mould",
  mould_patch: "soft place",
  numbered_cast: "cast",
  person: "person",
  piece: "piece",
  pour: "pour",
  pour_fault: "fault",
  pour_picture: "picture",
  poured_coat: "coat",
  wall_reading: "reading",
  workshop: "workshop",
};

/** One of them in words. */
export const thingIn = (table: string): string => THINGS[table] ?? table;
